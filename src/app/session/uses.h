/// What of the session a view uses, as a type: it can reach nothing else, and gives what it shows no more
/// than it has itself.
#pragma once

namespace cobbleway {

class CurrentSet;
class Findings;
class Messages;
class Levelling;
class Meters;
class Rounds;
class Transport;
class PluginWindows;
class SetFiles;
class Sounds;
struct Session;

namespace uses {

struct Messages {
    explicit Messages(Session& session);
    cobbleway::Messages& messages;
};
struct Set {
    explicit Set(Session& session);
    CurrentSet& current;
};
struct Files {
    explicit Files(Session& session);
    SetFiles& files;
};
struct Sounds {
    explicit Sounds(Session& session);
    cobbleway::Sounds& sounds;
};
struct Findings {
    explicit Findings(Session& session);
    cobbleway::Findings& findings;
};
struct Transport {
    explicit Transport(Session& session);
    cobbleway::Transport& transport;
};
struct Rounds {
    explicit Rounds(Session& session);
    cobbleway::Rounds& rounds;
};
struct Windows {
    explicit Windows(Session& session);
    PluginWindows& windows;
};
struct Meters {
    explicit Meters(Session& session);
    cobbleway::Meters& meters;
};
struct Levelling {
    explicit Levelling(Session& session);
    cobbleway::Levelling& levelling;
};

} // namespace uses

/// Made of a session, or of a Uses that has all of these and perhaps more. As small as a few pointers; lives
/// no longer than the session.
template <class... Owners> struct Uses : Owners... {
    Uses(Session& session) : Owners(session)... {}
    template <class... More> Uses(const Uses<More...>& other)
        : Owners(static_cast<const Owners&>(other))... {}
};

} // namespace cobbleway
