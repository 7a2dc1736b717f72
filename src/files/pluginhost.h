/// Plug-ins in processes of their own.
#pragma once
#include "files/childprocess.h"
#include "sound/instrumentbank.h"
#include "sound/pluginunit.h"

#include <filesystem>
#include <memory>
#include <mutex>
#include <vector>

namespace cobbleway {

/// Starts the helper once; it reads the descriptions of all plug-ins and splits off a process for each that
/// is loaded, which takes some milliseconds. A process for each, since the point is that one that ends takes
/// nothing else along; they share the memory of what was read. The helper and all of them end with this
/// object, and with this program.
class PluginHost final : public PluginMaker {
  public:
    /// `bundle`: the plug-ins that ship; may be empty. `leftOut`: bundles that are not read.
    PluginHost(std::filesystem::path helper, std::filesystem::path bundle,
               std::vector<std::filesystem::path> leftOut);
    ~PluginHost() override;
    Result<std::unique_ptr<PluginUnit>> load(const std::string& uri, const PluginSettings& settings, int rate,
                                             bool offline) override;

  private:
    bool start();
    bool give(int memory, int socket); ///< to the helper, which it starts anew when it has ended
    std::filesystem::path m_helper, m_bundle;
    std::vector<std::filesystem::path> m_leftOut;
    std::mutex m_lock;
    std::unique_ptr<ChildProcess> m_process;
    int m_socket = -1;
};

/// How the program's banks load plug-ins: each in a process of its own.
BankOptions::MakePlugins pluginProcesses();

} // namespace cobbleway
