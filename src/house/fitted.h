// What is recorded while a house is fitted: steps, pictures, how adapters are set up, addresses, labels.
#pragma once

#include "house/survey.h"

namespace metrodos::house {

/// How far a step of fitting is (fit/steps.h).
enum class StepState { open, done, failed, skipped };
inline constexpr StepState stepStates[] = {StepState::open, StepState::done, StepState::failed,
                                           StepState::skipped};
[[nodiscard]] std::string_view name(StepState state); ///< "open", "done" …
[[nodiscard]] std::optional<StepState> stepState(std::string_view name);

/// A picture that belongs to a step. Its bytes are kept beside the house, under their digest.
struct Photo {
    std::string digest;       ///< SHA-256 of the JPEG file, 64 hexadecimal digits
    std::string at;           ///< ISO 8601, UTC: when it was added
    std::string caption = {}; ///< the name of the file that it came from, unless somebody says otherwise

    friend bool operator==(const Photo&, const Photo&) = default;
};
inline constexpr std::size_t maxPhotos = 200; ///< of a house

/// What was recorded of a step. It outlives the step, which is derived anew from the house.
struct StepRecord {
    std::string step; ///< id of the step, at most 100 bytes
    StepState state = StepState::open;
    std::string at;          ///< ISO 8601, UTC: when the state was set; empty: never
    std::string reason = {}; ///< of a failure or a skip
    std::string note = {};
    std::string what = {}; ///< what the step said, for when it is no longer derived
    std::string of = {};   ///< what it was about (fit/steps.h): where that differs now, it is to be done anew
    std::vector<Photo> photos = {};

    friend bool operator==(const StepRecord&, const StepRecord&) = default;
};

/// What has to be done before a thing of the plan can be put in, which nothing in the house tells any more:
/// "Unplug …".
struct FitHint {
    Id thing;
    std::string text;

    friend bool operator==(const FitHint&, const FitHint&) = default;
};

/// The short code on the label of a thing. It stays when others come and go.
struct LabelCode {
    Id thing;
    std::string code; ///< "L2-C1", at most 16 bytes

    friend bool operator==(const LabelCode&, const LabelCode&) = default;
};

/// How far the chosen plan is fitted.
struct Fitting {
    /// Things that the plan has put into the house: devices, runs, jacks; and runs that were there and are
    /// used now.
    std::vector<Id> planned = {};
    std::vector<FitHint> hints = {};
    std::vector<StepRecord> records = {};
    std::vector<LabelCode> codes = {}; ///< of labels that were printed

    friend bool operator==(const Fitting&, const Fitting&) = default;
};

/// How an adapter is set up, as somebody saw it or set it.
struct AdapterRecord {
    std::string name; ///< that it was given, after its room
    std::string firmware;
    std::optional<bool> powerSaving;
    std::string priority; ///< what it lets through first; empty: not known
    std::optional<bool> lightsOff;
    std::optional<bool> modemProtection; ///< it spares the band of a telephone-line modem
    std::string pairedAt;                ///< ISO 8601, UTC; empty: not paired yet, or not known
    std::optional<bool> isPrivate;       ///< proven: no stranger's adapter can join its network
    std::string keyPlace;                ///< where the key of its network is kept; never the key
    std::string statusUrl;               ///< of its own page, http://
    std::string at;                      ///< ISO 8601, UTC: when somebody last looked at it

    friend bool operator==(const AdapterRecord&, const AdapterRecord&) = default;
};

/// What an adapter says of another one that it hears.
struct PeerRates {
    std::string name;                    ///< as the adapter calls it
    std::optional<quantity::BitRate> to; ///< PHY rate towards it
    std::optional<quantity::BitRate> from;
};

/// What a status page says; what it does not say is empty.
struct AdapterStatus {
    bool simulated = false;
    std::string name;
    std::string firmware;
    std::optional<bool> powerSaving;
    std::string priority;
    std::optional<bool> lightsOff;
    std::optional<bool> modemProtection;
    std::optional<bool> isPrivate;
    std::vector<PeerRates> peers;
};

/// A network of addresses. Addresses are written as RFC 4291 and RFC 5952 do, or in dotted quads.
struct Network {
    Id id; ///< unique among the networks
    std::string label;
    std::string prefix;   ///< "192.0.2.0/24", "2001:db8:7::/64"
    std::string gateway;  ///< empty: none
    std::string poolFrom; ///< of the automatic pool, both ends part of it; both empty: none
    std::string poolTo;

    friend bool operator==(const Network&, const Network&) = default;
};

/// Who sees to it that an address stays.
enum class AddressKind {
    reserved, ///< the router gives it to this hardware address
    fixed,    ///< set on the host
};
[[nodiscard]] std::string_view name(AddressKind kind);
[[nodiscard]] std::optional<AddressKind> addressKind(std::string_view name);

/// The address of one port of a device in one network.
struct PortAddress {
    Id id; ///< unique among the addresses
    Id device;
    Id port; ///< of that device
    Id network;
    std::string address; ///< empty: to be chosen yet
    AddressKind kind = AddressKind::reserved;
    std::string hardware; ///< "02:00:5e:10:00:01", what a reservation goes by; empty: not known

    friend bool operator==(const PortAddress&, const PortAddress&) = default;
};

/// Which address is whose. Nothing in it has to fit together: addressing.h says what does not.
struct Addressing {
    std::vector<Network> networks = {};
    std::vector<PortAddress> ports = {};

    friend bool operator==(const Addressing&, const Addressing&) = default;
};

} // namespace metrodos::house
