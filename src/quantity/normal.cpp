#include "quantity/normal.h"

#include <boost/math/distributions/normal.hpp>

namespace metrodos::quantity {

double normalQuantile(double p) {
    return boost::math::quantile(boost::math::normal(), p);
}

} // namespace metrodos::quantity
