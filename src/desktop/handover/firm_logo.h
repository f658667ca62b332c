// The firm's logo, kept for all jobs of this user.
#pragma once

#include "quantity/problem.h"

#include <QString>
#include <string>

namespace metrodos::desktop {

/// A PNG file (report::checkedLogo); empty: there is none.
[[nodiscard]] std::string keptLogo();
/// Makes a PNG of a bearable size of any picture and keeps it in place of the one before.
[[nodiscard]] quantity::Result<std::string> keepLogo(const QString& file);

} // namespace metrodos::desktop
