// A mixed integer programme, solved by CBC. Internal to the layer; it knows nothing of plans.
#pragma once

#include "quantity/problem.h"

#include <map>
#include <stop_token>
#include <vector>

class OsiSolverInterface;

namespace metrodos::weigh {

/// Coefficients by column.
using Row = std::map<int, double>;

class IntegerProgram {
  public:
    struct Column {
        double low = 0;
        double high = 1;
        bool whole = true;
    };

    /// The index of a new column.
    int add(const Column& column);
    [[nodiscard]] std::vector<Column>& columns() { return m_columns; }
    /// `sense`: 'L' at most, 'E' equal.
    void bound(const Row& row, char sense, double bound) { m_rows.push_back({row, sense, bound}); }

    /// Makes `objective` least within the time; the gap that is left, 0–1. What was found before, or was
    /// given by begin(), is where the search begins, and stays the answer where nothing better is found. A
    /// Problem where there is none.
    quantity::Result<double> minimise(const Row& objective, double seconds, const std::stop_token& stop);

    /// By column, the best so far; empty: none yet.
    [[nodiscard]] const std::vector<double>& values() const { return m_values; }
    [[nodiscard]] double value(int column) const { return m_values[static_cast<std::size_t>(column)]; }
    [[nodiscard]] double value(const Row& row) const;
    /// A solution to begin with; one of another number of columns is not taken, which the result says.
    bool begin(const std::vector<double>& values);

  private:
    struct Bound {
        Row row;
        char sense = 'L';
        double value = 0;
    };
    void load(OsiSolverInterface& solver, const Row& objective) const;

    std::vector<Column> m_columns;
    std::vector<Bound> m_rows;
    std::vector<double> m_values;
};

} // namespace metrodos::weigh
