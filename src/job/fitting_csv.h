// Tables of what is fitted, for other programs: addresses, and labels for a label printer.
#pragma once

#include "fit/labels.h"

#include <string>

namespace metrodos::job {

/// name, address, kept by, hardware address, device, port, network, prefix, gateway; a row for each address.
[[nodiscard]] std::string addressesCsv(const house::House& house);

/// code, what, where, copies, text of the QR code; a row for each label.
[[nodiscard]] std::string labelsCsv(const house::House& house, const std::vector<fit::Label>& labels);

} // namespace metrodos::job
