// The cupboard: which cable end there goes to which jack, and what it is joined to.
#pragma once

#include "house/house.h"

#include <optional>

namespace metrodos::fit {

/// A run of which one end is at the cupboard, or of which that is not known.
struct CupboardRun {
    house::Id connection;
    house::Medium medium = house::Medium::data_cable;
    std::string label;
    bool isHere = false;     ///< its end at the cupboard is known
    house::Id joinedTo;      ///< device or part of the coax tree at the cupboard; empty: nothing
    std::string joinedLabel; ///< "Hall switch", "Splitter"; empty: it is loose, or its end is not known
    std::string joinedPort;  ///< "LAN 3", "out-2"
    std::string farLabel;    ///< jack or box at the other end; empty: not known
    house::Id farRoom;       ///< empty: not known
    house::FoundBy foundBy = house::FoundBy::unknown;
    std::optional<int> goodPairs; ///< of data cable
    bool isFarLoose = false;      ///< the other end hangs free in its room

    /// Both ends are known, and joined to something.
    [[nodiscard]] bool isWhole() const {
        return isHere && !joinedTo.empty() && !farLabel.empty() && !isFarLoose;
    }
};

struct Cupboard {
    house::Id room;                ///< where runs come together; empty: there are none
    std::vector<CupboardRun> runs; ///< by what they are joined to, loose ones and those not found last
};

[[nodiscard]] Cupboard cupboardOf(const house::House& house);

} // namespace metrodos::fit
