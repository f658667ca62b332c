#include "weigh/integer_program.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <coin/CbcEventHandler.hpp>
#include <coin/CbcModel.hpp>
#include <coin/CbcSolver.hpp>
#include <coin/CoinError.hpp>
#include <coin/CoinPackedMatrix.hpp>
#include <coin/OsiClpSolverInterface.hpp>
#include <string>
#include <utility>

namespace metrodos::weigh {
namespace {

// Ends the search between two nodes, when the time has passed or somebody stops it. The solver's own limit of
// time would also cut short what it does before the first node and within one, and it goes on then with what
// it has not got: it reads address 0 or aborts.
class End : public CbcEventHandler {
  public:
    End(std::chrono::steady_clock::time_point end, std::stop_token stop)
        : m_end(end)
        , m_stop(std::move(stop)) {}
    CbcAction event(CbcEvent what) override {
        const bool isBetween = what == node || what == treeStatus;
        return isBetween && (m_stop.stop_requested() || std::chrono::steady_clock::now() >= m_end) ? stop
                                                                                                   : noAction;
    }
    [[nodiscard]] CbcEventHandler* clone() const override { return new End(*this); }

  private:
    std::chrono::steady_clock::time_point m_end;
    std::stop_token m_stop;
};

std::string columnName(std::size_t j) {
    return "c" + std::to_string(j);
}

int goOn(CbcModel* /*unused*/, int /*unused*/) {
    return 0;
}

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

void IntegerProgram::load(OsiSolverInterface& solver, const Row& objective) const {
    const std::size_t n = m_columns.size();
    std::vector<double> low(n);
    std::vector<double> high(n);
    std::vector<double> costs(n, 0.0);
    for (std::size_t j = 0; j < n; ++j) {
        low[j] = m_columns[j].low;
        high[j] = m_columns[j].high;
    }
    for (const auto& [j, a] : objective)
        costs[static_cast<std::size_t>(j)] = a;
    solver.setIntParam(OsiNameDiscipline, 1);
    CoinPackedMatrix rows(false, 0, 0);
    rows.setDimensions(0, static_cast<int>(n));
    std::vector<double> least;
    std::vector<double> most;
    for (const Bound& bound : m_rows) {
        std::vector<int> indices;
        std::vector<double> values;
        for (const auto& [j, a] : bound.row)
            if (a != 0) {
                indices.push_back(j);
                values.push_back(a);
            }
        rows.appendRow(static_cast<int>(indices.size()), indices.data(), values.data());
        least.push_back(bound.sense == 'E' ? bound.value : -solver.getInfinity());
        most.push_back(bound.value);
    }
    solver.loadProblem(rows, low.data(), high.data(), costs.data(), least.data(), most.data());
    for (std::size_t j = 0; j < n; ++j) {
        solver.setColName(static_cast<int>(j), columnName(j));
        if (m_columns[j].whole) solver.setInteger(static_cast<int>(j));
    }
}

quantity::Result<double> IntegerProgram::minimise(const Row& objective, double seconds,
                                                  const std::stop_token& stop) {
    const auto end =
        std::chrono::steady_clock::now() + std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                                               std::chrono::duration<double>(seconds));
    const auto none = [&] {
        return stop.stop_requested()
                   ? quantity::problem("weighing was stopped", "", "start it again when you like")
                   : quantity::problem("no plan was found in time", "",
                                       "pin the ways of some spots, or drop some needs");
    };
    try {
        OsiClpSolverInterface relaxed;
        relaxed.messageHandler()->setLogLevel(0);
        load(relaxed, objective);
        CbcSolverUsefulData settings;
        settings.noPrinting_ = true;
        settings.useSignalHandler_ = false;
        CbcModel model(relaxed);
        CbcMain0(model, settings);
        // What the search begins with still holds.
        std::vector<std::pair<std::string, double>> known;
        for (std::size_t j = 0; j < m_values.size(); ++j)
            known.emplace_back(columnName(j), m_values[j]);
        model.setMIPStart(known);
        const End ending(end, stop);
        model.passInEventHandler(&ending);
        // The rows are tight and the search begins near its end: what cuts and heuristics would add takes
        // several times as long as they save (tests/bench/weigh.cpp).
        std::array orders{"weigh", "-log", "0", "-cuts", "off", "-heuristicsOnOff", "off", "-solve", "-quit"};
        if (!stop.stop_requested())
            CbcMain1(static_cast<int>(orders.size()), orders.data(), model, goOn, settings);
        if (stop.stop_requested()) return none();
        const double* best = model.bestSolution();
        if (best == nullptr && model.isProvenOptimal()) best = model.getColSolution();
        if (best == nullptr && !m_values.empty()) best = m_values.data();
        if (best == nullptr && model.isProvenInfeasible())
            return quantity::problem("no plan is possible", "", "take away pins, or allow holes");
        if (best == nullptr) return none();
        m_values = std::vector<double>(best, best + m_columns.size());
        const double reached = value(objective);
        for (std::size_t j = 0; j < m_columns.size(); ++j)
            if (m_columns[j].whole) m_values[j] = std::round(m_values[j]);
        if (model.isProvenOptimal()) return 0.0;
        return std::clamp((reached - model.getBestPossibleObjValue()) / std::max(std::fabs(reached), 1e-9),
                          0.0, 1.0);
    } catch (const CoinError&) {
        // What was found before stays the answer; nothing is known of how near to the best it is.
        if (m_values.empty() || stop.stop_requested()) return none();
        return 1.0;
    }
}

} // namespace metrodos::weigh
