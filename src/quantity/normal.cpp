#include "quantity/normal.h"

#include <array>
#include <cmath>

namespace metrodos::quantity {

double normalQuantile(double p) {
    constexpr std::array<double, 6> a{-39.69683028665376, 220.9460984245205,  -275.9285104469687,
                                      138.3577518672690,  -30.66479806614716, 2.506628277459239};
    constexpr std::array<double, 5> b{-54.47609879822406, 161.5858368580409, -155.6989798598866,
                                      66.80131188771972, -13.28068155288572};
    constexpr std::array<double, 6> c{-0.007784894002430293, -0.3223964580411365, -2.400758277161838,
                                      -2.549732539343734,    4.374664141464968,   2.938163982698783};
    constexpr std::array<double, 4> d{0.007784695709041462, 0.3224671290700398, 2.445134137142996,
                                      3.754408661907416};
    constexpr double tail = 0.02425;
    if (p < tail || p > 1 - tail) {
        const double q = std::sqrt(-2 * std::log(p < tail ? p : 1 - p));
        const double z = (((((c[0] * q + c[1]) * q + c[2]) * q + c[3]) * q + c[4]) * q + c[5]) /
                         ((((d[0] * q + d[1]) * q + d[2]) * q + d[3]) * q + 1);
        return p < tail ? z : -z;
    }
    const double q = p - 0.5;
    const double r = q * q;
    return (((((a[0] * r + a[1]) * r + a[2]) * r + a[3]) * r + a[4]) * r + a[5]) * q /
           (((((b[0] * r + b[1]) * r + b[2]) * r + b[3]) * r + b[4]) * r + 1);
}

} // namespace metrodos::quantity
