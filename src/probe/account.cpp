#include "probe/account.h"

#include <array>
#include <pwd.h>
#include <unistd.h>

namespace metrodos::probe {

std::string ownAccount() {
    std::array<char, 256> host{};
    const bool isNamed = ::gethostname(host.data(), host.size() - 1) == 0 && host[0] != '\0';
    std::array<char, 4096> buffer{};
    passwd entry{};
    passwd* found = nullptr;
    const bool isKnown =
        ::getpwuid_r(::geteuid(), &entry, buffer.data(), buffer.size(), &found) == 0 && found != nullptr;
    return std::string(isKnown ? found->pw_name : "?") + "@" + (isNamed ? host.data() : "?");
}

} // namespace metrodos::probe
