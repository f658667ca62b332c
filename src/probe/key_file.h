// Files that keys are kept in: the key, what it lets its holder do, and who that is, a line each.
#pragma once

#include "probe/key.h"

namespace metrodos::probe {

inline constexpr std::size_t maxHolderBytes = 200;

/// As it lies in a file.
struct KeptKey {
    Key key;
    Right right = Right::command;
    std::string
        holder; ///< what whoever has the other copy calls itself, at most maxHolderBytes; empty: not known
};

/// A regular file of the user's own or of root that nobody else can read. One that the service manager hands
/// over in $CREDENTIALS_DIRECTORY (systemd.exec(5), "Credentials") may be read by a group as well: there the
/// group's bits are the mask of an access list that names the service's user. A Problem says which of that
/// fails, and how to mend it.
[[nodiscard]] quantity::Result<KeptKey> loadKeyFile(const std::filesystem::path& file);

/// Writes a new file with mode 0600; an existing file is left alone and is a Problem.
[[nodiscard]] quantity::Result<void> saveKeyFile(const KeptKey& kept, const std::filesystem::path& file);

} // namespace metrodos::probe
