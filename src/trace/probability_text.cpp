#include "trace/probability_text.h"

#include "quantity/format.h"

namespace metrodos::trace {

std::string probabilityText(double probability) {
    return probability >= 0.995 ? ">99 %" : quantity::significant(probability * 100, 2) + " %";
}

} // namespace metrodos::trace
