// Checks that every class that a house names is in the catalog and of the right kind.
#pragma once

#include "catalog/catalog.h"
#include "quantity/problem.h"

namespace metrodos::catalog {

[[nodiscard]] std::vector<quantity::Problem> check(const house::House& house, const Catalog& catalog);

} // namespace metrodos::catalog
