// What can be wrong with a thing beyond what its class says, how often, and how it shows in a run:
// faults.json of the catalog. A new kind of fault is an entry there; a new kind of evidence is a member of
// Signature.
#pragma once

#include "catalog/spread.h"
#include "house/house.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::catalog {

/// The chance that a run shows each of these while it is held back by a thing of this kind; 0.02–0.98.
struct Signature {
    double queue = 0.5;    ///< the delay rises under load
    double window = 0.5;   ///< the receiver's window is closed for half of the time or longer
    double buffer = 0.5;   ///< the sender has nothing to send for half of the time or longer
    double core = 0.5;     ///< a processor core at an end is full
    double unsteady = 0.5; ///< the rate changes from second to second
    double errors = 0.5;   ///< frames with errors at the receiver's own interface
    double loss = 0.5;     ///< more segments are sent again than a full queue makes
    double falls = 0.03;   ///< the rate falls within the run and stays lower
    double stalls = 0.02;  ///< hardly a byte arrives while small requests are answered
};

/// One way in which things of some kinds can be worse than their class.
struct FaultClass {
    std::string id;
    std::string label;           ///< completes "<thing>: "
    std::vector<std::string> on; ///< kinds: "port", "cable", "usb", "pcie", "host", "window", "coax" …
    double prior = 0;            ///< share of the things of that kind that have it
    std::optional<Spread<double>> share; ///< of the ceiling that it leaves
    std::optional<RateSpread> rate;      ///< what is left in all
    std::optional<Spread<double>> loss;  ///< share of the segments that are lost: bounds each stream
    std::vector<std::string> buses;      ///< what the socket is instead, all equally likely
    bool linksSlower = false;            ///< it links at a slower PHY
    double fromBps = 0;                  ///< only things whose ceiling is at least this have it
    bool oneWay = false;                 ///< one direction only, either equally likely
    std::map<std::string, double> shows; ///< members of the signature that differ from those of the kind
    std::vector<house::AlterationKind> curedBy; ///< what lifts it for the time of a run or a reading
    std::string source;
};

struct FaultCatalog {
    std::vector<FaultClass> faults;
    std::vector<FaultClass> unlisted; ///< what belongs to no element of the survey
    std::map<std::string, Signature> signatures;
    std::map<std::string, double> minutes; ///< of work that a kind of test takes

    /// The signature of a kind with what a fault changes of it; the neutral one where the kind is not known.
    [[nodiscard]] Signature signature(const std::string& kind, const FaultClass* fault = nullptr) const;
};

} // namespace metrodos::catalog
