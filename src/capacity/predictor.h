// Predicts every route of a house at once, and again after a change, reusing what the change did not touch.
#pragma once

#include "capacity/predict.h"

#include <memory>
#include <unordered_map>

namespace metrodos::capacity {

/// A route's prediction with its explanations shared among routes: what an overview of the house needs.
struct RouteSummary {
    house::Id route;
    RateSpread forward;
    RateSpread backward;
    std::shared_ptr<const std::vector<house::Element>> elements;
    std::vector<std::shared_ptr<const Ceiling>> ceilings; ///< by element
    std::vector<double> limiterForward;                   ///< by element
    std::vector<double> limiterBackward;
};

/// Remembers ceilings by the values that they depend on, so that nothing has to be declared invalid: another
/// value is another key. For one thread.
class Predictor {
  public:
    explicit Predictor(const catalog::Catalog& catalog);

    /// Of these routes, those that are found. The catalog must outlive the predictor.
    [[nodiscard]] std::vector<RouteSummary> summaries(const house::House& house,
                                                      const std::vector<house::Route>& routes);

  private:
    struct Known {
        std::uint64_t number = 0;
        std::shared_ptr<const Ceiling> ceiling;
    };
    using Elements = std::shared_ptr<const std::vector<house::Element>>;
    const Known& known(const house::House& house, const Plants& plants, const house::Route& route,
                       const house::Element& element);

    const catalog::Catalog& m_catalog;
    std::unordered_map<std::string, Known> m_ceilings;
    std::uint64_t m_given = 0; ///< numbers of ceilings so far; none is given twice, also after forgetting
    std::unordered_map<std::string, Least> m_least; // by the numbers of the ceilings
    std::string m_graph;                            // what the elements of routes depend on
    struct Way {
        Elements elements; ///< nullptr: not looked for yet
        /// The number of each element: the same thing has the same on every route.
        std::vector<std::uint32_t> index;
        /// The last answer and the ceilings that it came from: most changes leave most routes alone.
        std::vector<std::uint64_t> numbers;
        RouteSummary last;
    };
    std::unordered_map<std::string, Way> m_routes;           // of that graph, by both ends
    std::unordered_map<std::string, std::uint32_t> m_number; // of that graph, by element
};

} // namespace metrodos::capacity
