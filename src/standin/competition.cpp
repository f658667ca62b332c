#include "standin/competition.h"

#include <algorithm>

namespace metrodos::standin {

std::vector<double> sharesLeft(const FlowModel& mine, const std::vector<const FlowModel*>& others) {
    std::vector<double> out;
    for (const ElementTruth& element : mine.truth().elements) {
        double used = 0;
        int flows = 1;
        for (const FlowModel* other : others)
            for (const ElementTruth& theirs : other->truth().elements)
                if (theirs.passage == element.passage) {
                    used += other->lastGoodputBps() / theirs.capacityBps;
                    ++flows;
                }
        out.push_back(std::max(1.0 - used, 1.0 / flows));
    }
    return out;
}

} // namespace metrodos::standin
