// Labels for jacks, cables and boxes: short codes that stay.
//
// A code is that of the room, a hyphen, a letter for the kind and a number: L-C1 is the first coax jack of
// the Loft, L2-D1 the first data jack of another room whose name begins with L. A run of cable has the code
// of its jack with a K behind it, at both ends: what is found at the cupboard then says which jack it goes
// to.
#pragma once

#include "house/house.h"

namespace metrodos::fit {

struct Label {
    house::Id thing;
    std::string code;  ///< unique in the house, at most 16 bytes
    std::string what;  ///< "Loft coax 1"
    std::string where; ///< room; empty: not known
    int copies = 1;    ///< a run has one at each end
};

/// Of every jack, run of cable, adapter, switch and router. Codes that were recorded stay; others take the
/// next number that was never given.
[[nodiscard]] std::vector<Label> labelsOf(const house::House& house);

/// The house with these codes recorded.
[[nodiscard]] house::House withCodes(const house::House& house, const std::vector<Label>& labels);

/// What the QR code of a label says: "metrodos:label?job=…&thing=…&code=…", percent-encoded (RFC 3986), at
/// most 500 bytes.
[[nodiscard]] std::string qrTextOf(const house::House& house, const Label& label);

} // namespace metrodos::fit
