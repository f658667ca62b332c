// The figures of the channel models: coax.json, mains.json, air.json and storage.json of the catalog. What
// each means in an equation stands in docs/models.md and at its use in layer capacity.
#pragma once

#include "catalog/spread.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::catalog {

using quantity::Frequency;
using quantity::Length;

/// A labelled class of a plant with one figure.
struct CoaxCable {
    std::string id;
    std::string label;
    Spread<double> loss; ///< dB per 100 m and √MHz
    quantity::Money pricePerMetre;
};

struct SplitterLoss {
    int ways = 2;
    double ratedDb = 0;
    double unratedDb = 0;
    double televisionDb = 0; ///< in the band of television, for which all of them are made
};

struct CoaxClass {
    std::string id; ///< of the device class
    int channels = 1;
    Frequency channelWidth;
    /// Where its channels lie: above television, or in the band of television and cable internet, which it
    /// cannot share a coax with.
    bool isInTelevisionBand = false;
};

struct CoaxBand {
    Frequency low;
    Frequency high;
    Frequency middle; ///< where a budget is stated
};

struct CoaxModel {
    CoaxBand above;      ///< television
    CoaxBand television; ///< of the classes that take its place
    double transmitDbm = 0;
    double noiseDbm = 0;
    double goneSnrDb = 0; ///< at and below this nothing gets through
    double dbPerBit = 3;
    double fullBits = 10;
    double nodeOverhead = 0;
    std::vector<CoaxCable> cables;
    std::map<std::string, double> unknownCable; ///< id → weight, summing to 1
    Spread<double> unknownLength;               ///< m
    double goodConnectorDb = 0;
    Spread<double> badConnectorDb;
    double badConnectorProbability = 0;
    std::vector<SplitterLoss> splitters; ///< by rising ways
    Spread<double> unratedIsolationDb;
    Spread<double> televisionIsolationDb; ///< of any splitter, in the band of television
    double ratedIsolationPerLoss = 2;
    double ratedProbability = 0;
    double amplifierBlockedDb = 0;
    double amplifierBypassDb = 0;
    double bypassProbability = 0;
    double filterStopDb = 0;
    quantity::Frequency filterPass; ///< what lies below passes an entry filter
    double filterReflectDb = 0;
    double jointDb = 0;
    Spread<double> rippleDb; ///< per open port or run
    int mostRipples = 0;
    double openProbability = 0;
    std::vector<CoaxClass> classes;

    [[nodiscard]] const CoaxCable* cable(std::string_view id) const;
    [[nodiscard]] const CoaxClass* classOf(std::string_view id) const;
    [[nodiscard]] const CoaxBand& bandOf(const CoaxClass& cls) const {
        return cls.isInTelevisionBand ? television : above;
    }
};

struct ProtectionLoss {
    std::string id;
    std::string label;
    double baseDb = 0;
    double slopeDbPerMegahertz = 0;
};

struct Wiring {
    std::string id;
    std::string label;
    double factor = 1; ///< on the loss per metre
};

struct StripLoss {
    std::string id;
    std::string label;
    double lossDb = 0;
};

struct ApplianceClass {
    std::string id;
    std::string label;
    double noiseDb = 0; ///< above the background, at its own outlet
};

struct MainsClass {
    std::string id; ///< of the device class
    Frequency top;
    int streams = 1;
    double fullBits = 12;
};

struct MainsModel {
    Frequency low;
    double spacingHz = 0;
    double symbolMicroseconds = 0;
    double gapDb = 0;
    double netShare = 0;
    double transmitLow = 0;  ///< dBm/Hz below the edge
    double transmitHigh = 0; ///< and above
    Frequency transmitEdge;
    double noiseFloor = 0; ///< dBm/Hz
    double noiseRiseDb = 0;
    double noiseExponent = 0;
    double wireBase = 0;  ///< dB/m
    double wireSlope = 0; ///< dB/m/MHz
    double fadingSigmaDb = 0;
    double fadingBlockHz = 1e6;
    double secondStreamDb = 0;
    double couplingDb = 0;
    Spread<double> outletDb;
    std::vector<ProtectionLoss> protections;
    std::vector<Wiring> wirings;
    Spread<double> otherLegDb;
    double subPanelDb = 0;
    double otherUnitDb = 0;
    std::vector<StripLoss> strips;
    Spread<double> unknownStep; ///< m
    std::vector<ApplianceClass> appliances;
    double applianceDbPerMetre = 0;
    double applianceCrossingDb = 0;
    Spread<double> ambientNoiseDb;
    Spread<double> macShare;
    double otherLanguageShare =
        1; ///< of the rate that is left while adapters of another language send as well
    std::vector<MainsClass> classes;

    [[nodiscard]] const MainsClass* classOf(std::string_view id) const;
    [[nodiscard]] const ApplianceClass* appliance(std::string_view id) const;
    [[nodiscard]] const Wiring* wiring(std::string_view id) const;
    [[nodiscard]] const ProtectionLoss* protection(std::string_view id) const;
    [[nodiscard]] const StripLoss* strip(std::string_view id) const;
};

struct AirModel {
    Spread<double> nearShare; ///< goodput of the negotiated rate in the same room
    double exponent = 3;
    double referenceMetres = 3;
    Spread<double> wallDb;
    double dbPerHalving = 9; ///< loss beyond the reference that halves the rate
    Spread<double> unknownDistance;
    Spread<double> stations;
    // How far apart rooms are where nobody measured.
    Length betweenRooms;
    Length betweenBuildings;
    Length perFloor; ///< added for each floor between, which is one wall more
    int wallsBetweenRooms = 2;
    int wallsBetweenBuildings = 3;
};

struct DiskClass {
    std::string id;
    std::string label;
    RateSpread read;
    RateSpread write;
    std::string source;
};

struct FileProtocol {
    std::string id;
    std::string label;
    Spread<double> share; ///< of the network's rate that is left
    /// One request after the other, each waiting for its answer: what a request carries. Nothing: many at
    /// once.
    std::optional<Spread<double>> requestBytes;
    std::optional<RateSpread> cap; ///< what one core encrypts or signs, whatever the network carries
    std::string source;
};

/// How the ends of a data run are made.
struct Termination {
    std::string id;
    std::string label;
    double badPairFactor = 1; ///< on the chance of a lost pair
};

} // namespace metrodos::catalog
