#include "weigh/integer_program.h"

#include <algorithm>
#include <cmath>
#include <coin/Cbc_C_Interface.h>
#include <memory>
#include <numeric>
#include <string>

namespace metrodos::weigh {
namespace {

struct Destroy {
    void operator()(Cbc_Model* model) const { Cbc_deleteModel(model); }
};

} // namespace

int IntegerProgram::add(const Column& column) {
    m_columns.push_back(column);
    return static_cast<int>(m_columns.size()) - 1;
}

bool IntegerProgram::begin(const std::vector<double>& values) {
    if (values.size() != m_columns.size()) return false;
    m_values = values;
    return true;
}

double IntegerProgram::value(const Row& row) const {
    double out = 0;
    for (const auto& [j, a] : row)
        out += a * value(j);
    return out;
}

quantity::Result<double> IntegerProgram::minimise(const Row& objective, double seconds,
                                                  const std::stop_token& stop) {
    const std::unique_ptr<Cbc_Model, Destroy> model(Cbc_newModel());
    Cbc_setLogLevel(model.get(), 0);
    for (std::size_t j = 0; j < m_columns.size(); ++j) {
        const auto cost = objective.find(static_cast<int>(j));
        Cbc_addCol(model.get(), ("c" + std::to_string(j)).c_str(), m_columns[j].low, m_columns[j].high,
                   cost == objective.end() ? 0 : cost->second, m_columns[j].whole ? 1 : 0, 0, nullptr,
                   nullptr);
    }
    for (const Bound& bound : m_rows) {
        std::vector<int> indices;
        std::vector<double> values;
        for (const auto& [j, a] : bound.row)
            if (a != 0) {
                indices.push_back(j);
                values.push_back(a);
            }
        Cbc_addRow(model.get(), "r", static_cast<int>(indices.size()), indices.data(), values.data(),
                   bound.sense, bound.value);
    }
    if (!m_values.empty()) {
        std::vector<int> all(m_values.size());
        std::iota(all.begin(), all.end(), 0);
        Cbc_setMIPStartI(model.get(), static_cast<int>(all.size()), all.data(), m_values.data());
    }
    // The rows are tight and the search begins near its end: what cuts and heuristics would add takes
    // several times as long as they save (tests/bench/weigh.cpp).
    Cbc_setParameter(model.get(), "cuts", "off");
    Cbc_setParameter(model.get(), "heuristicsOnOff", "off");
    Cbc_setParameter(model.get(), "timeMode", "elapsed");
    // Whoever stops waits for one of these at most.
    Cbc_setMaximumSeconds(model.get(), seconds);
    if (!stop.stop_requested()) Cbc_solve(model.get());
    if (stop.stop_requested())
        return quantity::problem("weighing was stopped", "", "start it again when you like");
    const double* best = Cbc_numberSavedSolutions(model.get()) > 0 ? Cbc_bestSolution(model.get()) : nullptr;
    if (best == nullptr && Cbc_isProvenOptimal(model.get()) != 0) best = Cbc_getColSolution(model.get());
    // What the search began with still holds.
    if (best == nullptr && !m_values.empty()) best = m_values.data();
    if (best == nullptr && Cbc_isProvenInfeasible(model.get()) != 0)
        return quantity::problem("no plan is possible", "", "take away pins, or allow holes");
    if (best == nullptr)
        return quantity::problem("no plan was found in time", "",
                                 "pin the ways of some spots, or drop some needs");
    double value = 0;
    for (const auto& [j, a] : objective)
        value += a * best[j];
    m_values = std::vector<double>(best, best + m_columns.size());
    for (std::size_t j = 0; j < m_columns.size(); ++j)
        if (m_columns[j].whole) m_values[j] = std::round(m_values[j]);
    if (Cbc_isProvenOptimal(model.get()) != 0) return 0.0;
    const double bound = Cbc_getBestPossibleObjValue(model.get());
    return std::clamp((value - bound) / std::max(std::fabs(value), 1e-9), 0.0, 1.0);
}

} // namespace metrodos::weigh
