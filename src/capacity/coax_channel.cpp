#include "capacity/coax_channel.h"

#include "capacity/contribution.h"

#include "quantity/draw.h"
#include "quantity/format.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <unordered_map>

namespace metrodos::capacity {
namespace {

using catalog::Catalog;
using catalog::CoaxModel;
using catalog::Spread;
using house::CoaxPart;
using house::CoaxPartKind;
using house::Connection;
using quantity::uniformOf;

constexpr double guardMegahertz = 10;     // between cable internet and the lowest channel
constexpr double metresPerSecond = 2.5e8; // on coax with foamed insulation

// Every unknown value of one draw comes from here, by the name of the thing that it belongs to.
class Draw {
  public:
    explicit Draw(int n)
        : m_seed(static_cast<std::uint64_t>(n) + 1) {}

    [[nodiscard]] double chance(const house::Id& id, const char* what) const {
        return uniformOf(m_seed, id + "/" + what);
    }

  private:
    std::uint64_t m_seed;
};

// Loss of one step over frequency in one draw: slope·√f + flat, f in MHz.
struct StepLoss {
    double slope = 0;
    double flat = 0;
    [[nodiscard]] double at(double megahertz) const { return slope * std::sqrt(megahertz) + flat; }
};

// A dip that an open port leaves: depth/2·(1 − cos 2πfτ).
struct Ripple {
    double depth = 0;
    double delay = 0; // s
    [[nodiscard]] double at(double megahertz) const {
        return depth / 2 * (1 - std::cos(2 * std::numbers::pi * megahertz * 1e6 * delay));
    }
};

class Loss {
  public:
    Loss(const CoaxTree& tree, const CoaxModel& model)
        : m_tree(tree)
        , m_model(model) {}

    // One step in every draw, in the band of television or above it; worked out once for all ways that pass
    // it.
    [[nodiscard]] const std::vector<StepLoss>& of(const CoaxStep& step, bool inTelevisionBand) const {
        const std::string name = step.run != nullptr ? step.run->id
                                                     : step.part->id + ":" + step.entry + ":" + step.exit +
                                                           (inTelevisionBand ? ":t" : "");
        const auto [hit, fresh] = m_steps.try_emplace(name);
        if (fresh)
            for (int n = 0; n < drawsPerPath; ++n)
                hit->second.push_back(step.run != nullptr
                                          ? ofRun(*step.run, Draw(n))
                                          : StepLoss{0, ofPart(step, inTelevisionBand, Draw(n))});
        return hit->second;
    }

    // The dips of open ports of the splitters on the way.
    [[nodiscard]] std::vector<Ripple> ripples(const std::vector<CoaxStep>& steps, const Draw& draw) const {
        std::vector<Ripple> out;
        for (const CoaxStep& step : steps) {
            if (step.part == nullptr || step.part->kind != CoaxPartKind::splitter) continue;
            for (const house::Id& port : m_tree.openPorts(*step.part)) {
                if (static_cast<int>(out.size()) >= m_model.mostRipples) return out;
                const house::Id name = step.part->id + "." + port;
                const bool isOpen =
                    step.part->terminated.has_value() || draw.chance(name, "open") < m_model.openProbability;
                if (isOpen)
                    out.push_back({valueAt(m_model.rippleDb, draw.chance(name, "depth")),
                                   2 * (0.3 + 8 * draw.chance(name, "stub")) / metresPerSecond});
            }
        }
        return out;
    }

  private:
    [[nodiscard]] StepLoss ofRun(const Connection& run, const Draw& draw) const {
        const catalog::CoaxCable* cable = m_model.cable(run.cableClass);
        if (cable == nullptr) {
            double u = draw.chance(run.id, "type");
            for (const auto& [id, weight] : m_model.unknownCable) {
                cable = m_model.cable(id);
                if ((u -= weight) < 0) break;
            }
        }
        const double metres = run.length ? run.length->inMetres()
                                         : valueAt(m_model.unknownLength, draw.chance(run.id, "length"));
        StepLoss out{valueAt(cable->loss, draw.chance(run.id, "loss")) * metres / 100, 0};
        for (int end = 0; end < 2; ++end) {
            const char* what = end == 0 ? "end-a" : "end-b";
            const bool bad = run.badConnectors ? end < *run.badConnectors
                                               : draw.chance(run.id, what) < m_model.badConnectorProbability;
            out.flat +=
                bad ? valueAt(m_model.badConnectorDb, draw.chance(run.id, end == 0 ? "bad-a" : "bad-b"))
                    : m_model.goodConnectorDb;
        }
        return out;
    }

    [[nodiscard]] double ofPart(const CoaxStep& step, bool inTelevisionBand, const Draw& draw) const {
        const CoaxPart& part = *step.part;
        switch (part.kind) {
        case CoaxPartKind::entry:
            return 0;
        case CoaxPartKind::joint:
            return m_model.jointDb;
        case CoaxPartKind::filter:
            return inTelevisionBand ? m_model.jointDb : m_model.filterStopDb; // which it is made to pass
        case CoaxPartKind::amplifier: {
            const bool passes =
                part.bypass.value_or(draw.chance(part.id, "bypass") < m_model.bypassProbability);
            return passes ? m_model.amplifierBypassDb : m_model.amplifierBlockedDb;
        }
        case CoaxPartKind::splitter:
            break;
        }
        const bool rated = part.rated.value_or(draw.chance(part.id, "rated") < m_model.ratedProbability);
        const auto row = std::find_if(m_model.splitters.begin(), m_model.splitters.end(),
                                      [&](const catalog::SplitterLoss& s) { return s.ways >= part.ways; });
        const catalog::SplitterLoss& loss = row == m_model.splitters.end() ? m_model.splitters.back() : *row;
        if (inTelevisionBand)
            return step.isAcross()
                       ? valueAt(m_model.televisionIsolationDb, draw.chance(part.id, "television-isolation"))
                       : loss.televisionDb;
        const double through = rated ? loss.ratedDb : loss.unratedDb;
        if (!step.isAcross()) return through;
        const double isolation = rated
                                     ? m_model.ratedIsolationPerLoss * through
                                     : valueAt(m_model.unratedIsolationDb, draw.chance(part.id, "isolation"));
        if (!m_tree.hasFilterAtInput(part)) return isolation;
        // The filter turns the band back: two passes through the splitter beside the direct way.
        const double reflected = 2 * through + m_model.filterReflectDb;
        return -10 * std::log10(std::pow(10, -isolation / 10) + std::pow(10, -reflected / 10));
    }

    const CoaxTree& m_tree;
    const CoaxModel& m_model;
    mutable std::unordered_map<std::string, std::vector<StepLoss>> m_steps;
};

// The middles of the channels of a class, in MHz; above television from where cable internet ends.
std::vector<double> channelsOf(const CoaxModel& model, const catalog::CoaxClass& cls,
                               const house::CoaxUse& use) {
    const catalog::CoaxBand& band = model.bandOf(cls);
    double start = band.low.inMegahertz();
    if (!cls.isInTelevisionBand && use.cableInternetTop &&
        use.cableInternetTop->inMegahertz() + guardMegahertz > start)
        start = use.cableInternetTop->inMegahertz() + guardMegahertz;
    std::vector<double> out;
    const double width = cls.channelWidth.inMegahertz();
    for (int k = 0; k < cls.channels && start + width * (k + 1) <= band.high.inMegahertz() + 0.5; ++k)
        out.push_back(start + width * (k + 0.5));
    return out;
}

double bitsAt(const CoaxModel& model, double lossDb) {
    const double snr = model.transmitDbm - lossDb - model.noiseDbm;
    return std::clamp((snr - model.goneSnrDb) / model.dbPerBit, 0.0, model.fullBits);
}

const catalog::CoaxClass& classFor(const CoaxModel& model, const std::string& id) {
    const catalog::CoaxClass* cls = model.classOf(id);
    return cls != nullptr ? *cls : model.classes.back();
}

std::string labelOf(const CoaxStep& step) {
    if (step.run != nullptr) return step.run->label;
    return step.part->label + (step.isAcross() ? ", out to out" : "");
}

void addRulings(CoaxBudget& out, const CoaxTree& tree, const CoaxPath& path, std::size_t channels,
                const catalog::CoaxClass& cls) {
    const house::House& house = tree.house();
    if (cls.isInTelevisionBand && (house.coaxUse.television == true || house.coaxUse.cableInternetTop)) {
        out.rulings.emplace_back(
            "television or cable internet uses this coax, in whose band these adapters send");
        out.ruledOut = true;
    }
    if (!cls.isInTelevisionBand && house.coaxUse.satellite == true) {
        out.rulings.emplace_back("satellite signals (950 to 2150 MHz) fill the adapters' band on this tree");
        out.ruledOut = true;
    }
    if (path.join == CoaxJoin::unjoined) {
        const Connection* loose = house.connection(path.looseRun);
        out.rulings.emplace_back(loose == nullptr
                                     ? "no run joins the two jacks"
                                     : "the run “" + loose->label + "” is not joined to the rest");
        out.ruledOut = true;
    }
    for (const CoaxStep& step : path.steps) {
        if (step.part == nullptr) continue;
        if (step.part->kind == CoaxPartKind::amplifier && step.part->bypass == false) {
            out.rulings.emplace_back("the amplifier “" + step.part->label + "” blocks the adapters' band");
            out.ruledOut = true;
        }
        if (step.part->kind == CoaxPartKind::amplifier && !step.part->bypass)
            out.rulings.emplace_back("the amplifier “" + step.part->label +
                                     "” blocks the band unless it has a bypass");
        if (step.part->kind == CoaxPartKind::filter && !cls.isInTelevisionBand) {
            out.rulings.emplace_back("the filter “" + step.part->label +
                                     "” lies between the two and stops the band");
            out.ruledOut = true;
        }
    }
    if (channels < static_cast<std::size_t>(cls.channels))
        out.rulings.emplace_back("cable internet up to " +
                                 quantity::significant(house.coaxUse.cableInternetTop->inMegahertz(), 4) +
                                 " MHz leaves " + std::to_string(channels) + " of " +
                                 std::to_string(cls.channels) + " channels");
}

Distribution rateOf(const Loss& loss, const Catalog& catalog, const CoaxPath& path,
                    const CoaxQuestion& question, const std::vector<double>& channels) {
    const CoaxModel& model = catalog.coax;
    const catalog::CoaxClass& cls = classFor(model, question.deviceClass);
    const catalog::DeviceClass* box = catalog.device(cls.id);
    const double nodes = 1 - model.nodeOverhead * std::max(0, std::min(question.nodes, 16) - 2);
    std::vector<const std::vector<StepLoss>*> steps;
    for (const CoaxStep& step : path.steps)
        steps.push_back(&loss.of(step, cls.isInTelevisionBand));
    const Distribution full = Distribution::of(box->goodput);
    std::vector<double> rates;
    for (int n = 0; n < drawsPerPath; ++n) {
        const Draw draw(n);
        StepLoss sum;
        for (const std::vector<StepLoss>* step : steps) {
            const StepLoss& one = (*step)[static_cast<std::size_t>(n)];
            sum.slope += one.slope;
            sum.flat += one.flat;
        }
        const std::vector<Ripple> ripples = loss.ripples(path.steps, draw);
        double bits = 0;
        for (const double middle : channels) {
            // Three points of a channel, so that a dip counts by its width.
            for (const double off : {-0.3, 0.0, 0.3}) {
                const double f = middle + off * cls.channelWidth.inMegahertz();
                double lost = sum.at(f);
                for (const Ripple& ripple : ripples)
                    lost += ripple.at(f);
                bits += bitsAt(model, lost) / 3;
            }
        }
        const double share = bits / (model.fullBits * cls.channels);
        const double whole = full.quantile(std::clamp(draw.chance(cls.id, "box"), 0.02, 0.98));
        rates.push_back(std::max(noLinkBps, whole * share * nodes));
    }
    return Distribution::ofDraws(std::move(rates));
}

void addImprovements(CoaxBudget& out, const CoaxTree& tree, const Catalog& catalog, const CoaxPath& path,
                     const CoaxQuestion& question) {
    const house::House& house = tree.house();
    CoaxQuestion plain = question;
    plain.withImprovements = false;
    const auto consider = [&](const house::Id& id, std::string does, const auto& change) {
        house::House other = house;
        change(other);
        const CoaxBudget after = coaxBudget(other, catalog, plain);
        const double gain = out.totalDb.p50 - after.totalDb.p50;
        if (gain < 0.2 && after.rate.spread().p50 < out.rate.spread().p50 * 1.01) return;
        out.improvements.push_back({id, std::move(does), gain, after.rate.spread().p50});
    };
    const auto partOf = [](house::House& h, const house::Id& id) -> CoaxPart& {
        return *std::find_if(h.coaxParts.begin(), h.coaxParts.end(),
                             [&](const CoaxPart& p) { return p.id == id; });
    };
    for (const CoaxStep& step : path.steps) {
        if (step.run != nullptr) {
            if (step.run->badConnectors.value_or(1) > 0)
                consider(step.run->id, "crimp new connectors onto “" + step.run->label + "”",
                         [&](house::House& h) { h.connection(step.run->id)->badConnectors = 0; });
            continue;
        }
        const house::Id id = step.part->id;
        const std::string label = "“" + step.part->label + "”";
        if (step.part->kind == CoaxPartKind::amplifier && step.part->bypass != true)
            consider(id, "take out the amplifier " + label + " or exchange it for one with a bypass",
                     [&](house::House& h) { partOf(h, id).bypass = true; });
        if (step.part->kind != CoaxPartKind::splitter) continue;
        const bool isAbove = !classFor(catalog.coax, question.deviceClass).isInTelevisionBand;
        if (step.part->rated != true && isAbove)
            consider(id, "exchange " + label + " for a splitter rated for the adapters' band",
                     [&](house::House& h) { partOf(h, id).rated = true; });
        if (!tree.openPorts(*step.part).empty())
            consider(id, "screw terminators onto the open ports of " + label,
                     [&](house::House& h) { partOf(h, id).terminated = true; });
        if (step.isAcross() && isAbove && tree.isNextToEntry(*step.part))
            consider(id, "screw an entry filter onto the input of " + label, [&](house::House& h) {
                // A filter between the input and what fed it.
                CoaxPart filter;
                filter.id = h.freeId("entry-filter");
                filter.label = "entry filter";
                filter.kind = CoaxPartKind::filter;
                for (Connection& c : h.connections)
                    for (house::PortRef& end : c.ends)
                        if (end == house::PortRef{id, "in"}) end = {filter.id, "in"};
                Connection jumper;
                jumper.id = h.freeId("jumper");
                jumper.medium = house::Medium::coax;
                jumper.ends = {{filter.id, "out"}, {id, "in"}};
                jumper.length = quantity::Length::metres(0);
                jumper.badConnectors = 0;
                h.coaxParts.push_back(filter);
                h.connections.push_back(jumper);
            });
    }
    std::ranges::stable_sort(out.improvements, std::ranges::greater(), &Improvement::gainDb);
}

} // namespace

catalog::Spread<double> spreadOfDraws(std::vector<double> draws) {
    std::sort(draws.begin(), draws.end());
    const auto at = [&](double p) {
        const double x = p * static_cast<double>(draws.size() - 1);
        const auto below = static_cast<std::size_t>(x);
        const auto above = std::min(below + 1, draws.size() - 1);
        return draws[below] + (draws[above] - draws[below]) * (x - static_cast<double>(below));
    };
    return {at(0.1), at(0.5), at(0.9)};
}

struct CoaxPlant::Impl {
    Impl(const house::House& house, const Catalog& c)
        : catalog(c)
        , tree(house)
        , loss(tree, c.coax) {}
    const Catalog& catalog;
    CoaxTree tree;
    Loss loss;
};

CoaxPlant::CoaxPlant(const house::House& house, const Catalog& catalog)
    : m_impl(std::make_unique<Impl>(house, catalog)) {}
CoaxPlant::~CoaxPlant() = default;

CoaxBudget coaxBudget(const house::House& house, const Catalog& catalog, const CoaxQuestion& question) {
    return CoaxPlant(house, catalog).budget(question);
}

std::string CoaxPlant::key(const house::Id& jackA, const house::Id& jackB) const {
    const CoaxTree& tree = m_impl->tree;
    const house::House& house = tree.house();
    const CoaxPath path = tree.path(jackA, jackB);
    std::string out = std::to_string(static_cast<int>(path.join));
    const auto add = [&](const std::string& text) {
        out += '\x1f';
        out += text;
    };
    const auto flag = [&](const std::optional<bool>& value) { out += value ? (*value ? 'y' : 'n') : 'u'; };
    flag(house.coaxUse.satellite);
    flag(house.coaxUse.television);
    if (house.coaxUse.cableInternetTop) add(std::to_string(house.coaxUse.cableInternetTop->inHertz()));
    if (const Connection* loose = house.connection(path.looseRun)) add(loose->label);
    for (const CoaxStep& step : path.steps) {
        if (step.run != nullptr) {
            add(step.run->id);
            add(step.run->label);
            add(step.run->cableClass);
            add(step.run->length ? std::to_string(step.run->length->inMetres()) : "");
            add(step.run->badConnectors ? std::to_string(*step.run->badConnectors) : "");
            continue;
        }
        const CoaxPart& part = *step.part;
        add(part.id);
        add(part.label);
        add(step.entry);
        add(step.exit);
        add(std::to_string(static_cast<int>(part.kind)));
        add(std::to_string(part.ways));
        flag(part.rated);
        flag(part.bypass);
        flag(part.terminated);
        if (part.kind != CoaxPartKind::splitter) continue;
        flag(tree.hasFilterAtInput(part));
        for (const house::Id& open : tree.openPorts(part))
            add(open);
    }
    return out;
}

CoaxBudget CoaxPlant::budget(const CoaxQuestion& question) const {
    const CoaxTree& tree = m_impl->tree;
    const Catalog& catalog = m_impl->catalog;
    const Loss& loss = m_impl->loss;
    const CoaxModel& model = catalog.coax;
    const catalog::CoaxClass& cls = classFor(model, question.deviceClass);
    const CoaxPath path = tree.path(question.jackA, question.jackB);
    const std::vector<double> channels = channelsOf(model, cls, tree.house().coaxUse);
    CoaxBudget out;
    out.join = path.join;
    addRulings(out, tree, path, channels.size(), cls);
    if (path.join != CoaxJoin::joined) return out;

    const double middle = model.bandOf(cls).middle.inMegahertz();
    std::vector<double> totals(drawsPerPath, 0.0);
    const auto add = [&](const house::Id& id, const std::string& label, const auto& lossOf) {
        std::vector<double> draws;
        for (int n = 0; n < drawsPerPath; ++n) {
            draws.push_back(lossOf(n));
            totals[static_cast<std::size_t>(n)] += draws.back();
        }
        out.contributions.push_back({id, label, spreadOfDraws(std::move(draws)), std::nullopt});
    };
    for (const CoaxStep& step : path.steps)
        add(step.run != nullptr ? step.run->id : step.part->id, labelOf(step), [&](int n) {
            return loss.of(step, cls.isInTelevisionBand)[static_cast<std::size_t>(n)].at(middle);
        });
    add("", "ripple of open ports", [&](int n) {
        double sum = 0;
        for (const Ripple& ripple : loss.ripples(path.steps, Draw(n)))
            sum += ripple.at(middle);
        return sum;
    });
    if (out.contributions.back().lossDb.p90 <= 0) out.contributions.pop_back();
    out.totalDb = spreadOfDraws(totals);
    if (!cls.isInTelevisionBand && tree.house().coaxUse.satellite == true) return out;
    out.rate = rateOf(loss, catalog, path, question, channels);
    if (question.withImprovements) addImprovements(out, tree, catalog, path, question);
    return out;
}

} // namespace metrodos::capacity
