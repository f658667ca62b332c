// What the facts of a machine mean: the ceilings of its ports and sockets, what to put right, and what of it
// belongs into the house.
#pragma once

#include "capacity/framing.h"
#include "catalog/catalog.h"
#include "house/house.h"
#include "probe/lldp.h"
#include "quantity/problem.h"

#include <initializer_list>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

namespace metrodos::probe {

/// The socket or slot that a port sits in. Rates are raw, of PCIe over all lanes.
struct BusFacts {
    std::string kind; ///< "usb", "pci"; empty: none or another
    std::optional<double> bps;
    std::optional<double> possibleBps; ///< that the device could use in a better socket
    std::optional<int> lanes;
    std::optional<int> possibleLanes;
};

struct PortFacts {
    std::string name;
    bool up = false;
    bool radio = false;
    std::optional<double> bps; ///< line rate of the link
    bool halfDuplex = false;
    std::optional<double> supportedBps; ///< the fastest that the port can
    std::optional<double> partnerBps;   ///< the fastest that the other end offers
    std::optional<bool> energySaving;   ///< IEEE 802.3az in use
    std::optional<bool> segmentation;
    std::optional<bool> coalescing;       ///< frames are gathered before the processor is told
    std::optional<double> errors;         ///< frames with errors since the machine came up
    std::optional<double> dropped;        ///< frames
    std::optional<double> carrierChanges; ///< how often the link went up or down
    std::string driver;
    std::vector<std::string> addresses;
    BusFacts bus;
    std::optional<LinkNeighbour> neighbour; ///< at the other end of its link
    std::optional<std::vector<std::string>>
        behind; ///< hardware addresses that its bridge has heard there; nothing: in no bridge
};

struct RouteFact {
    std::string to;  ///< "192.0.2.0/24"
    std::string via; ///< empty: directly
    std::string port;
};

struct MachineFacts {
    std::string name;
    std::optional<bool> onBattery;
    std::string kernel;
    std::string cpuModel;
    std::optional<int> cores;
    std::string governor; ///< what the processor's clock follows: "powersave"
    std::optional<double> memoryBytes;
    std::vector<RouteFact> routes;
    std::vector<PortFacts> ports;
};

/// Reads the document of hostFacts(), from whoever sent it: what has another type is taken as not told, texts
/// are cut to 64 characters, lists to 64 entries.
[[nodiscard]] MachineFacts readFacts(const nlohmann::json& document);

/// Whether a radio of these machines is up; nothing where none says what ports it has.
[[nodiscard]] std::optional<bool> radioUp(std::initializer_list<const MachineFacts*> machines);

/// What to look at or put right, a sentence each, without its full stop; the gravest of a port first. With
/// the address `host` at which the machine was reached: also which of several ports that was.
[[nodiscard]] std::vector<std::string> remarks(const MachineFacts& facts, const std::string& host = {});

/// The most payload that a part of a machine lets through, one direction.
struct PartCeiling {
    std::string port; ///< name of the interface
    std::string part; ///< "link", "usb", "pci"
    quantity::BitRate goodput;
    std::string because;
};
/// Of every port that is up. A socket that the catalog knows by its raw rate has the catalog's median; of
/// PCIe otherwise 85 % of the rate after coding (PCI Express base specification: 8b/10b to 5 GT/s, 128b/130b
/// above).
[[nodiscard]] std::vector<PartCeiling> partCeilings(const MachineFacts& facts,
                                                    const catalog::Catalog& catalog,
                                                    const capacity::Framing& framing = {});

/// A house with the facts of one endpoint put in, and what that changed, a sentence each; none: nothing new.
struct Noted {
    house::House house;
    std::vector<std::string> changes;
};
/// A link that runs as the survey says is nothing new. Notes at the port that has the address `host`, or at
/// the only wired one that is up: what its link runs at, at the cable; the fastest rate of the port and of
/// the one at the cable's other end, where the survey does not know it; and the socket that it sits in, where
/// the route from the machine has one; and the port of the house at the cable's other end, where the box
/// there has said its name and port and the house has both under these labels. Fails when it cannot be told
/// which port of the house it is.
[[nodiscard]] quantity::Result<Noted> noteFacts(const house::House& house, const catalog::Catalog& catalog,
                                                const house::Id& endpoint, const MachineFacts& facts,
                                                const std::string& host);

} // namespace metrodos::probe
