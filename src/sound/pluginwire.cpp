#include "sound/pluginwire.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace cobbleway {
namespace {

constexpr std::uint32_t longestMessage = 64U << 20;

bool sendAll(int socket, const char* bytes, std::size_t count) {
    while (count > 0) {
        const ssize_t sent = send(socket, bytes, count, MSG_NOSIGNAL);
        if (sent < 0 && errno == EINTR) continue;
        if (sent <= 0) return false;
        bytes += sent;
        count -= static_cast<std::size_t>(sent);
    }
    return true;
}

using Until = std::optional<std::chrono::steady_clock::time_point>;

/// So many seconds from now; negative: never.
Until after(double seconds) {
    if (seconds < 0) return std::nullopt;
    return std::chrono::steady_clock::now() + std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                                                  std::chrono::duration<double>(seconds));
}

/// Waits for something to read; false when the time is over.
bool awaitInput(int socket, const Until& until) {
    while (true) {
        int wait = -1;
        if (until) {
            const auto left =
                std::chrono::ceil<std::chrono::milliseconds>(*until - std::chrono::steady_clock::now());
            if (left.count() <= 0) return false;
            wait = static_cast<int>(left.count());
        }
        pollfd wanted{socket, POLLIN, 0};
        const int ready = poll(&wanted, 1, wait);
        if (ready > 0) return true;
        if (ready < 0 && errno != EINTR) return false;
    }
}

bool receiveAll(int socket, char* bytes, std::size_t count, const Until& until) {
    while (count > 0) {
        if (!awaitInput(socket, until)) return false;
        const ssize_t got = recv(socket, bytes, count, 0);
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) return false;
        bytes += got;
        count -= static_cast<std::size_t>(got);
    }
    return true;
}

} // namespace

void WireMessage::put(const void* bytes, std::size_t count) {
    m_bytes.append(static_cast<const char*>(bytes), count);
}

bool WireMessage::take(void* to, std::size_t count) {
    m_good = m_good && m_bytes.size() - m_at >= count;
    if (!m_good) return false;
    std::memcpy(to, m_bytes.data() + m_at, count);
    m_at += count;
    return true;
}

void WireMessage::put(std::uint32_t value) { put(&value, sizeof value); }
void WireMessage::put(float value) { put(&value, sizeof value); }

void WireMessage::put(const std::string& text) {
    put(static_cast<std::uint32_t>(text.size()));
    put(text.data(), text.size());
}

void WireMessage::put(const PluginSettings& settings) {
    put(settings.preset);
    put(settings.state);
    put(static_cast<std::uint32_t>(settings.controls.size()));
    for (const auto& [symbol, value] : settings.controls) {
        put(symbol);
        put(value);
    }
    put(static_cast<std::uint32_t>(settings.files.size()));
    for (const auto& [parameter, path] : settings.files) {
        put(parameter);
        put(path);
    }
}

std::uint32_t WireMessage::number() {
    std::uint32_t value = 0;
    return take(&value, sizeof value) ? value : 0;
}

float WireMessage::value() {
    float value = 0;
    return take(&value, sizeof value) ? value : 0;
}

std::string WireMessage::text() {
    const std::uint32_t size = number();
    if (m_bytes.size() - m_at < size) m_good = false;
    std::string text(m_good ? size : 0, '\0');
    take(text.data(), text.size());
    return text;
}

PluginSettings WireMessage::settings() {
    PluginSettings settings;
    settings.preset = text();
    settings.state = text();
    for (std::uint32_t left = number(); left > 0 && m_good; --left) {
        const std::string symbol = text();
        settings.controls[symbol] = value();
    }
    for (std::uint32_t left = number(); left > 0 && m_good; --left) {
        const std::string parameter = text();
        settings.files[parameter] = text();
    }
    return settings;
}

bool sendMessage(int socket, const WireMessage& message) {
    const auto size = static_cast<std::uint32_t>(message.bytes().size());
    return size <= longestMessage && sendAll(socket, reinterpret_cast<const char*>(&size), sizeof size) &&
           sendAll(socket, message.bytes().data(), size);
}

bool hasInput(int socket, double seconds) { return awaitInput(socket, after(seconds)); }

std::optional<WireMessage> receiveMessage(int socket, double seconds) {
    const Until until = after(seconds);
    std::uint32_t size = 0;
    if (!receiveAll(socket, reinterpret_cast<char*>(&size), sizeof size, until) || size > longestMessage)
        return std::nullopt;
    std::string bytes(size, '\0');
    if (!receiveAll(socket, bytes.data(), size, until)) return std::nullopt;
    return WireMessage(std::move(bytes));
}

namespace {

/// A message of one byte with two descriptors beside it.
struct DescriptorMessage {
    char byte = 'p';
    iovec data{&byte, 1};
    std::array<int, 2> both{-1, -1};
    alignas(cmsghdr) std::array<char, CMSG_SPACE(sizeof(int) * 2)> room{};
    msghdr head{};
    DescriptorMessage() {
        head.msg_iov = &data;
        head.msg_iovlen = 1;
        head.msg_control = room.data();
        head.msg_controllen = room.size();
    }
    DescriptorMessage(const DescriptorMessage&) = delete;
    DescriptorMessage& operator=(const DescriptorMessage&) = delete;
};

} // namespace

bool sendDescriptors(int socket, int first, int second) {
    DescriptorMessage message;
    message.both = {first, second};
    cmsghdr* const beside = CMSG_FIRSTHDR(&message.head);
    beside->cmsg_level = SOL_SOCKET;
    beside->cmsg_type = SCM_RIGHTS;
    beside->cmsg_len = CMSG_LEN(sizeof message.both);
    std::memcpy(CMSG_DATA(beside), message.both.data(), sizeof message.both);
    return sendmsg(socket, &message.head, MSG_NOSIGNAL) == 1;
}

std::optional<std::pair<int, int>> receiveDescriptors(int socket) {
    DescriptorMessage message;
    ssize_t got = 0;
    do got = recvmsg(socket, &message.head, MSG_CMSG_CLOEXEC);
    while (got < 0 && errno == EINTR);
    const cmsghdr* const beside = got > 0 ? CMSG_FIRSTHDR(&message.head) : nullptr;
    if (!beside || beside->cmsg_type != SCM_RIGHTS || beside->cmsg_len != CMSG_LEN(sizeof message.both))
        return std::nullopt;
    std::memcpy(message.both.data(), CMSG_DATA(beside), sizeof message.both);
    return std::pair(message.both[0], message.both[1]);
}

} // namespace cobbleway
