#include "capacity/mains_channel.h"

#include "capacity/contribution.h"

#include "quantity/draw.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <unordered_map>

namespace metrodos::capacity {
namespace {

using catalog::Catalog;
using catalog::MainsModel;
using house::House;
using house::Id;
using quantity::uniformOf;

constexpr double shownAtMegahertz = 15;
constexpr double unknownLegProbability = 0.4; // that two circuits of unknown legs are on different ones

enum class Part { coupling, wire, outlets, devices, leg, panel, strip, appliances, none };

// Loss as base + slope·f over frequency, in dB and MHz: all contributions but the fading have that form.
struct Line {
    double base = 0;
    double slope = 0;
    [[nodiscard]] double at(double megahertz) const { return base + slope * megahertz; }
    Line& operator+=(const Line& o) {
        base += o.base;
        slope += o.slope;
        return *this;
    }
};

struct ClassLimits {
    double topMegahertz = 0;
    int streams = 1;
    double fullBits = 12;
};

// Carriers that fade together; they share the value at their middle.
struct Block {
    double megahertz = 0;
    double clear = 0; // SNR less the gap, before loss and the appliances' noise, in dB
};

double powerOf(double db) {
    return std::exp(db * 0.23025850929940457); // ln 10 / 10
}

struct Neighbour {
    const house::Appliance* appliance = nullptr;
    double noiseDb = 0; // above the background as it reaches the outlet
};

// Each appliance as it is heard at each outlet, weaker by the wire and the panel between; worked out once.
class Noise {
  public:
    Noise(const House& house, const MainsModel& model)
        : m_house(house)
        , m_model(model) {}

    [[nodiscard]] const std::vector<Neighbour>& heardAt(const Id& outlet) const {
        const auto [hit, fresh] = m_heard.try_emplace(outlet);
        if (!fresh) return hit->second;
        for (const house::Appliance& a : m_house.appliances) {
            const catalog::ApplianceClass* cls = m_model.appliance(a.applianceClass);
            if (cls == nullptr) cls = &m_model.appliances.back();
            double away = 0;
            if (a.outlet != outlet) {
                const MainsPath between = mainsPath(m_house, a.outlet, outlet);
                for (const WireStretch& w : between.wire)
                    away +=
                        m_model.applianceDbPerMetre * (w.metres + w.unknownSteps * m_model.unknownStep.p50);
                if (!between.sameCircuit)
                    away += m_model.applianceCrossingDb; // or somewhere else in the house
            }
            // What arrives below the background adds nothing to it.
            if (cls->noiseDb > away) hit->second.push_back({&a, cls->noiseDb - away});
        }
        return hit->second;
    }

  private:
    const House& m_house;
    const MainsModel& m_model;
    mutable std::unordered_map<std::string, std::vector<Neighbour>> m_heard;
};

class Channel {
  public:
    Channel(const House& house, const Catalog& catalog, const Noise& noise, const MainsQuestion& question)
        : m_house(house)
        , m_model(catalog.mains)
        , m_question(question)
        , m_path(mainsPath(house, question.outletA, question.outletB))
        , m_pair(std::min(question.outletA, question.outletB) + "|" +
                 std::max(question.outletA, question.outletB)) {
        const catalog::MainsClass* cls = m_model.classOf(question.deviceClass);
        if (cls == nullptr) cls = &m_model.classes.back();
        m_limits = {cls->top.inMegahertz(), cls->streams, cls->fullBits};
        m_full = 10 * std::log10(std::exp2(m_limits.fullBits) - 1);
        const double width = m_model.fadingBlockHz / 1e6;
        for (double low = m_model.low.inMegahertz(); low + width <= m_limits.topMegahertz + 1e-9;
             low += width) {
            const double f = low + width / 2;
            const double sent =
                f < m_model.transmitEdge.inMegahertz() ? m_model.transmitLow : m_model.transmitHigh;
            const double noise =
                m_model.noiseFloor + m_model.noiseRiseDb * std::pow(f, m_model.noiseExponent);
            m_blocks.push_back({f, sent - noise - m_model.gapDb});
        }
        for (std::size_t part = 0; part < m_losses.size(); ++part)
            for (std::uint64_t n = 1; n <= drawsPerPath; ++n)
                m_losses[part].push_back(workOut(static_cast<Part>(part), n));
        m_heardAtA = &noise.heardAt(question.outletA);
        m_heardAtB = &noise.heardAt(question.outletB);
    }

    [[nodiscard]] const MainsPath& path() const { return m_path; }

    // The loss of one contribution in one draw, 1 ≤ n ≤ drawsPerPath; worked out once.
    [[nodiscard]] const Line& loss(Part part, std::uint64_t n) const {
        return m_losses[static_cast<std::size_t>(part)][static_cast<std::size_t>(n - 1)];
    }

  private:
    [[nodiscard]] Line workOut(Part part, std::uint64_t n) const {
        switch (part) {
        case Part::coupling:
            return {m_model.couplingDb, 0};
        case Part::wire: {
            Line sum;
            for (const WireStretch& w : m_path.wire) {
                double metres = w.metres;
                for (int k = 0; k < w.unknownSteps; ++k)
                    metres +=
                        valueAt(m_model.unknownStep, uniformOf(n, w.circuit + "/step" + std::to_string(k)));
                const double factor = factorOf(w, n);
                sum += {m_model.wireBase * metres * factor, m_model.wireSlope * metres * factor};
            }
            return sum;
        }
        case Part::outlets: {
            double sum = 0;
            for (const WireStretch& w : m_path.wire)
                sum += w.outletsPassed * valueAt(m_model.outletDb, uniformOf(n, w.circuit + "/outlets"));
            return {sum, 0};
        }
        case Part::devices: {
            Line sum;
            for (const house::Circuit* c : m_path.crossed) {
                const auto* device = m_model.protection(house::name(c->protection));
                sum += {device->baseDb, device->slopeDbPerMegahertz};
            }
            return sum;
        }
        case Part::leg: {
            const bool other =
                m_path.legs == Legs::different ||
                (m_path.legs == Legs::unknown && uniformOf(n, m_pair + "/leg") < unknownLegProbability);
            return {other ? valueAt(m_model.otherLegDb, uniformOf(n, m_pair + "/leg-db")) : 0, 0};
        }
        case Part::panel:
            return {m_path.subPanels * m_model.subPanelDb + (m_path.sameSupply ? 0 : m_model.otherUnitDb), 0};
        case Part::strip:
            return {stripDb(m_question.stripA) + stripDb(m_question.stripB), 0};
        case Part::appliances:
        case Part::none:
            break;
        }
        return {};
    }

  public:
    // PHY rate of one direction in one draw, without one contribution.
    [[nodiscard]] double phy(bool forward, std::uint64_t n, std::optional<int> hour, Part without) const {
        Line loss;
        for (const Part part :
             {Part::coupling, Part::wire, Part::outlets, Part::devices, Part::leg, Part::panel, Part::strip})
            if (part != without) loss += this->loss(part, n);
        const double excess = noiseExcess(forward, n, hour, without != Part::appliances);
        const std::uint64_t fading = quantity::hashOf(n, m_pair + "/fading");
        const double carriers = m_model.fadingBlockHz / m_model.spacingHz;
        double bits = 0;
        for (std::size_t k = 0; k < m_blocks.size(); ++k) {
            const Block& block = m_blocks[k];
            const double snr = block.clear - loss.at(block.megahertz) - excess;
            for (int stream = 0; stream < m_limits.streams; ++stream) {
                const double fade =
                    m_model.fadingSigmaDb * quantity::normalDraw(fading + k + (stream == 0 ? 0 : 4099));
                const double net = snr + fade - (stream == 0 ? 0 : m_model.secondStreamDb);
                if (net < 0) continue; // less than one bit
                bits += carriers * (net >= m_full ? m_limits.fullBits : std::log2(1 + powerOf(net)));
            }
        }
        return bits / (m_model.symbolMicroseconds * 1e-6) * m_model.netShare;
    }

    [[nodiscard]] double macShare(std::uint64_t n) const {
        return valueAt(m_model.macShare, uniformOf(n, m_pair + "/mac"));
    }

    [[nodiscard]] double goodput(bool forward, std::uint64_t n, std::optional<int> hour, Part without) const {
        return std::max(noLinkBps, phy(forward, n, hour, without) * macShare(n));
    }

    [[nodiscard]] bool anyHours() const {
        return std::any_of(m_house.appliances.begin(), m_house.appliances.end(),
                           [](const house::Appliance& a) { return !a.hours.empty(); });
    }

  private:
    [[nodiscard]] double stripDb(house::Strip strip) const {
        return m_model.strip(house::name(strip))->lossDb;
    }

    [[nodiscard]] double factorOf(const WireStretch& w, std::uint64_t n) const {
        if (const catalog::Wiring* wiring = m_model.wiring(w.wiring)) return wiring->factor;
        // Most wiring is sound; of unknown age a part is not.
        return uniformOf(n, w.circuit + "/wiring") < 0.25 ? 1.4 : 1.0;
    }

    // How far the noise at the receiving outlet lies above the background: what nobody wrote down, and the
    // appliances that run.
    [[nodiscard]] double noiseExcess(bool forward, std::uint64_t n, std::optional<int> hour,
                                     bool withAppliances) const {
        const Id& receiver = forward ? m_question.outletB : m_question.outletA;
        const double ambient = valueAt(m_model.ambientNoiseDb, uniformOf(n, receiver + "/ambient"));
        if (!withAppliances) return ambient;
        double power = powerOf(ambient);
        const int when = hour.value_or(static_cast<int>(uniformOf(n, "/hour") * 24));
        for (const Neighbour& near : *(forward ? m_heardAtB : m_heardAtA)) {
            const house::Appliance& a = *near.appliance;
            const bool runs = a.hours.empty()
                                  ? uniformOf(n, a.id + "/on") < 0.5
                                  : std::any_of(a.hours.begin(), a.hours.end(),
                                                [&](const house::HourSpan& s) { return s.contains(when); });
            if (runs) power += std::max(0.0, powerOf(near.noiseDb) - 1);
        }
        return 10 * std::log10(power);
    }

    const House& m_house;
    const MainsModel& m_model;
    const MainsQuestion& m_question;
    MainsPath m_path;
    std::string m_pair;
    ClassLimits m_limits;
    double m_full = 0; // dB of SNR over the gap from which a carrier has all its bits
    std::vector<Block> m_blocks;
    std::array<std::vector<Line>, static_cast<std::size_t>(Part::none) + 1> m_losses; // by part and draw
    const std::vector<Neighbour>* m_heardAtA = nullptr;
    const std::vector<Neighbour>* m_heardAtB = nullptr;
};

RateSpread rates(const catalog::Spread<double>& s) {
    return {BitRate::bitsPerSecond(s.p10), BitRate::bitsPerSecond(s.p50), BitRate::bitsPerSecond(s.p90)};
}

double slowerMedian(const Channel& channel, std::optional<int> hour, Part without, int draws) {
    std::vector<double> ahead;
    std::vector<double> back;
    for (int n = 1; n <= draws; ++n) {
        ahead.push_back(channel.goodput(true, static_cast<std::uint64_t>(n), hour, without));
        back.push_back(channel.goodput(false, static_cast<std::uint64_t>(n), hour, without));
    }
    return std::min(spreadOfDraws(ahead).p50, spreadOfDraws(back).p50);
}

void addContributions(MainsForecast& out, const House& house, const Channel& channel,
                      const MainsQuestion& question) {
    const auto add = [&](Part part, const std::string& label, const Id& id) {
        std::vector<double> draws;
        for (std::uint64_t n = 1; n <= drawsPerPath; ++n)
            draws.push_back(channel.loss(part, n).at(shownAtMegahertz));
        Contribution c{id, label, spreadOfDraws(std::move(draws)), std::nullopt};
        if (part != Part::appliances && c.lossDb.p90 < 0.05) return;
        if (question.withCosts)
            c.costBps = std::max(0.0, slowerMedian(channel, question.hour, part, 32) -
                                          slowerMedian(channel, question.hour, Part::none, 32));
        if (part == Part::appliances && c.costBps.value_or(0) < 1e5) return;
        out.contributions.push_back(std::move(c));
    };
    const MainsPath& path = channel.path();
    double metres = 0;
    int unknown = 0;
    int passed = 0;
    for (const WireStretch& w : path.wire) {
        metres += w.metres;
        unknown += w.unknownSteps;
        passed += w.outletsPassed;
    }
    add(Part::coupling, "coupling of both adapters", "");
    add(Part::wire,
        "wire, " + std::to_string(static_cast<int>(std::lround(metres))) + " m" +
            (unknown > 0 ? " and " + std::to_string(unknown) + " steps of unknown length" : ""),
        path.wire.front().circuit);
    add(Part::outlets, std::to_string(passed) + " outlets passed", path.wire.front().circuit);
    std::string devices;
    for (const house::Circuit* c : path.crossed)
        devices +=
            (devices.empty() ? "" : " and ") + std::string(house::name(c->protection)) + " of " + c->label;
    std::replace(devices.begin(), devices.end(), '_', '-');
    add(Part::devices, "devices crossed: " + devices, path.crossed.empty() ? Id() : path.crossed.front()->id);
    add(Part::leg, path.legs == Legs::unknown ? "perhaps another leg or phase" : "another leg or phase", "");
    add(Part::panel,
        path.sameSupply ? std::to_string(path.subPanels) + " sub-panel crossed" : "another supply", "");
    add(Part::strip, "strip or extension lead", "");
    if (question.withCosts && !house.appliances.empty()) add(Part::appliances, "noise of appliances", "");
}

} // namespace

struct MainsPlant::Impl {
    Impl(const House& h, const Catalog& c)
        : house(h)
        , catalog(c)
        , noise(h, c.mains) {}
    const House& house;
    const Catalog& catalog;
    Noise noise;
};

MainsPlant::MainsPlant(const House& house, const Catalog& catalog)
    : m_impl(std::make_unique<Impl>(house, catalog)) {}
MainsPlant::~MainsPlant() = default;

MainsForecast mainsForecast(const House& house, const Catalog& catalog, const MainsQuestion& question) {
    return MainsPlant(house, catalog).forecast(question);
}

std::string MainsPlant::key(const Id& outletA, const Id& outletB) const {
    const MainsPath path = mainsPath(m_impl->house, outletA, outletB);
    std::string out = std::to_string(path.isKnown) + std::to_string(static_cast<int>(path.legs)) +
                      std::to_string(path.sameSupply) + std::to_string(path.subPanels);
    const auto add = [&](const std::string& text) {
        out += '\x1f';
        out += text;
    };
    for (const WireStretch& w : path.wire) {
        add(w.circuit);
        add(w.label);
        add(w.wiring);
        add(std::to_string(w.metres));
        add(std::to_string(w.unknownSteps));
        add(std::to_string(w.outletsPassed));
    }
    for (const house::Circuit* c : path.crossed)
        add(std::string(house::name(c->protection)));
    for (const Id& outlet : {outletA, outletB})
        for (const Neighbour& near : m_impl->noise.heardAt(outlet)) {
            add(near.appliance->id);
            add(std::to_string(near.noiseDb));
            for (const house::HourSpan& span : near.appliance->hours)
                add(std::to_string(span.from) + "-" + std::to_string(span.to));
        }
    return out;
}

MainsForecast MainsPlant::forecast(const MainsQuestion& question) const {
    const House& house = m_impl->house;
    const Channel channel(house, m_impl->catalog, m_impl->noise, question);
    MainsForecast out;
    out.isKnown = channel.path().isKnown;
    if (!out.isKnown) return out;
    if (!channel.path().sameSupply)
        out.rulings.emplace_back(
            "the two outlets hang on different supplies: it usually does not work at all");
    for (const house::Strip strip : {question.stripA, question.stripB})
        if (strip == house::Strip::surge_protected)
            out.rulings.emplace_back(
                "a surge-protected strip swallows the signal: plug the adapter into the wall");
    std::vector<double> ahead;
    std::vector<double> back;
    std::vector<double> phyAhead;
    std::vector<double> phyBack;
    for (std::uint64_t n = 1; n <= drawsPerPath; ++n) {
        phyAhead.push_back(channel.phy(true, n, question.hour, Part::none));
        phyBack.push_back(channel.phy(false, n, question.hour, Part::none));
        ahead.push_back(std::max(noLinkBps, phyAhead.back() * channel.macShare(n)));
        back.push_back(std::max(noLinkBps, phyBack.back() * channel.macShare(n)));
    }
    out.forward = Distribution::ofDraws(std::move(ahead));
    out.backward = Distribution::ofDraws(std::move(back));
    out.phyForward = rates(spreadOfDraws(std::move(phyAhead)));
    out.phyBackward = rates(spreadOfDraws(std::move(phyBack)));
    addContributions(out, house, channel, question);
    if (question.withCosts && channel.anyHours())
        for (int hour = 0; hour < 24; ++hour)
            out.byHour.push_back(slowerMedian(channel, hour, Part::none, 32));
    return out;
}

std::vector<OutletChoice> bestOutlets(const House& house, const Catalog& catalog, const Id& room,
                                      const Id& far, const std::string& deviceClass) {
    const MainsPlant plant(house, catalog);
    std::vector<OutletChoice> out;
    for (const house::Jack& jack : house.jacks) {
        if (jack.kind != house::JackKind::mains || jack.room != room || jack.id == far) continue;
        MainsQuestion question;
        question.outletA = far;
        question.outletB = jack.id;
        question.deviceClass = deviceClass;
        const MainsForecast forecast = plant.forecast(question);
        if (!forecast.isKnown) continue;
        const RateSpread ahead = forecast.forward.spread();
        const RateSpread back = forecast.backward.spread();
        out.push_back({jack.id, ahead.p50 < back.p50 ? ahead : back});
    }
    std::ranges::stable_sort(out, std::ranges::greater(),
                             [](const OutletChoice& choice) { return choice.slower.p50; });
    return out;
}

} // namespace metrodos::capacity
