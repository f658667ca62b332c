// What is needed to plan a house: what people do there and what that takes, the kinds of ways with their work
// and how long they last, and the parts and labour with guide prices: planning.json of the catalog.
#pragma once

#include "catalog/spread.h"
#include "quantity/quantity.h"

#include <chrono>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::catalog {

/// Where the other end of a use lies when nobody says otherwise: at the service; at the store or the recorder
/// of the house; or anywhere in the house.
enum class PeerKind { service, store, recorder, house };

/// Something that is done at a spot: what one of it takes.
struct UseClass {
    std::string id;
    std::string label;
    std::vector<std::string> words; ///< by which it may be written, lower case
    quantity::BitRate down;         ///< towards the spot
    quantity::BitRate up;
    std::optional<std::chrono::microseconds> delay; ///< idle round trip at most
    bool steady = false;                            ///< it goes on all the while
    bool buffered = false; ///< it has seconds in hand, so that drop-outs and spikes are not felt
    bool volume = false;   ///< so many bytes within so many hours; its rates say only which way they go
    PeerKind peer = PeerKind::service;
    std::string source;
};

/// A kind of way to a spot.
/// By what a spot is reached; what is done for it follows from this, what it costs and how long it lasts from
/// its class.
enum class WayMeans { as_is, data, new_own, new_hired, coax, mains, air, mesh, phone, fibre };
[[nodiscard]] std::optional<WayMeans> wayMeans(std::string_view id); ///< "data", "new-own" …
[[nodiscard]] const char* idOf(WayMeans means);

struct WayClass {
    std::string id; ///< that of its means
    std::string label;
    std::string brief;         ///< a word or two for drawings
    double years = 10;         ///< that it is likely to stay useful, 1–40
    double minutesPerSpot = 0; ///< of work for each spot
    double minutesOnce = 0;    ///< and for all of them together
    int holes = 0;             ///< drilled for each spot on the same floor; each floor between is one more
    double steadiness =
        1; ///< share of the hours without a drop-out or spike where there is margin to spare, 0–1
    std::string security; ///< one sentence
    std::string rulesOut; ///< what it is in the way of; empty: nothing
    std::string source;
};

/// A part or a piece of work that has a price and is no device of the catalog.
struct PartClass {
    std::string id;
    std::string label;
    std::string unit; ///< "piece", "metre", "run", "hour"
    quantity::Money price;
    std::string source;
};

/// A switch as it is sold: a class of device with so many ports.
struct SwitchModel {
    std::string id;
    std::string label;
    std::string deviceClass;
    int ports = 5;
    quantity::Money price;
    std::string source;
};

/// How long a new run through the house gets and what laying it takes.
struct Laying {
    quantity::Length base; ///< within a floor
    quantity::Length perFloor;
    quantity::Length betweenBuildings;
    double allowance = 0.15; ///< added to what is bought
    double minutesPerMetre = 1;
    double minutesPerHole = 20;
    std::string cable; ///< category of new runs
};

/// What it costs to let boxes run, and how long a switch lasts.
struct Running {
    double adapterWatts = 4; ///< of one adapter of a shared medium
    double switchWatts = 5;
    double switchYears = 10;
};

struct Planning {
    std::vector<UseClass> uses;
    std::vector<WayClass> ways;
    std::vector<PartClass> parts;
    std::vector<SwitchModel> switches; ///< by rising price
    Laying laying;
    RateSpread phonePair;   ///< what a pair of adapters carries over a phone pair of a house
    double meshShare = 0.5; ///< what a hop more over the same radio leaves
    Running running;
    double nicMinutes = 15;   ///< of work to give a machine another network adapter
    double steadyFrom = 0.95; ///< steadiness of a way on which drop-outs and spikes are not felt

    [[nodiscard]] const UseClass* use(std::string_view id) const;
    [[nodiscard]] const WayClass* way(std::string_view id) const;
    [[nodiscard]] const WayClass* way(WayMeans means) const { return way(idOf(means)); }
    [[nodiscard]] const PartClass* part(std::string_view id) const;
};

} // namespace metrodos::catalog
