#include "weigh/need.h"

#include "quantity/ascii.h"
#include "quantity/format.h"
#include "quantity/parse.h"

#include <algorithm>
#include <cmath>

namespace metrodos::weigh {
namespace {

using quantity::ascii::inLowerCase;

using catalog::UseClass;
using house::Use;
using quantity::plain;

constexpr int maxAtOnce = 999;
constexpr double secondsPerHour = 3600;

struct UseRates {
    double down = 0;
    double up = 0;
};

// What one use takes. A figure of its own is that of the larger way.
UseRates ratesOfUse(const Use& use, const UseClass& cls) {
    UseRates one{cls.down.bps(), cls.up.bps()};
    double larger = std::max(one.down, one.up);
    if (use.volume && use.hours)
        larger = static_cast<double>(use.volume->bytes) * 8 / (*use.hours * secondsPerHour);
    else if (use.rate)
        larger = use.rate->bps();
    else if (cls.volume)
        larger = 0; // neither how much nor how long is known
    // The other way follows in the same measure where it is acknowledgements, and stays where it is its own.
    const double scale = larger / std::max(one.down, one.up);
    if (one.down >= one.up)
        return {larger, use.volume ? one.up * scale : std::min(one.up, std::max(larger, 0.0))};
    return {use.volume ? one.down * scale : std::min(one.down, std::max(larger, 0.0)), larger};
}

std::string trimmed(std::string_view text) {
    const auto from = text.find_first_not_of(" \t");
    if (from == std::string_view::npos) return "";
    return std::string(text.substr(from, text.find_last_not_of(" \t") - from + 1));
}

std::vector<std::string> partsOf(std::string_view text) {
    std::string even = " " + std::string(text) + " ";
    for (std::size_t at; (at = inLowerCase(even).find(" and ")) != std::string::npos;)
        even.replace(at, 5, " + ");
    std::vector<std::string> out{""};
    for (std::size_t i = 0; i < even.size(); ++i) {
        // A comma inside a number is a decimal mark.
        const bool comma = even[i] == ',' && i + 1 < even.size() && even[i + 1] == ' ';
        if (even[i] == '+' || even[i] == ';' || comma)
            out.emplace_back();
        else
            out.back() += even[i];
    }
    for (std::string& part : out)
        part = trimmed(part);
    std::erase(out, "");
    return out;
}

// "400 GB in 3 h": bytes are decimal as disks are sold.
std::optional<std::pair<quantity::ByteCount, double>> volumeIn(const std::string& text) {
    const std::string small = inLowerCase(text);
    const auto in = small.find(" in ");
    if (in == std::string::npos) return std::nullopt;
    const auto bytes = quantity::parseByteCount(trimmed(text.substr(0, in)));
    const auto time = quantity::parseDuration(trimmed(text.substr(in + 4)));
    if (!bytes || !time || bytes->bytes == 0 || time->count() <= 0) return std::nullopt;
    return std::pair(*bytes, std::chrono::duration<double, std::ratio<3600>>(*time).count());
}

// The class with the longest word that the text begins with, and what is left behind it.
const UseClass* classIn(const std::string& text, const catalog::Catalog& catalog, std::string& rest) {
    const std::string small = inLowerCase(text);
    const UseClass* best = nullptr;
    std::size_t length = 0;
    for (const UseClass& cls : catalog.planning.uses)
        for (const std::string& word : cls.words)
            if (word.size() > length && small.starts_with(inLowerCase(word)) &&
                (small.size() == word.size() || small[word.size()] == ' ')) {
                best = &cls;
                length = word.size();
            }
    if (best != nullptr) rest = trimmed(text.substr(length));
    return best;
}

constexpr const char* theService = "the service";

// Takes "from X" or "to X" off the end of `text`: what X is. Labels are compared without regard to case; an
// id goes before them.
quantity::Result<std::string> takePeer(std::string& text, const house::House& house) {
    const std::string small = " " + inLowerCase(text);
    std::size_t at = std::string::npos;
    std::size_t length = 0;
    for (const std::string_view word : {" from ", " to "})
        if (const auto found = small.find(word); found < at) {
            at = found;
            length = word.size();
        }
    if (at == std::string::npos) return std::string();
    const std::string name = trimmed(std::string_view(text).substr(std::min(text.size(), at + length - 1)));
    text = trimmed(std::string_view(text).substr(0, at));
    const std::string wanted = inLowerCase(name);
    if (wanted == theService || wanted == house::servicePeer || wanted == "the internet")
        return std::string(house::servicePeer);
    if (wanted == "the store" || wanted == "the recorder") return std::string(); // as the class says
    if (house.device(name) != nullptr) return name;
    const house::Device* found = nullptr;
    for (const house::Device& d : house.devices) {
        if (inLowerCase(d.label) != wanted && "the " + inLowerCase(d.label) != wanted) continue;
        if (found != nullptr)
            return quantity::problem("“" + name + "” is the name of several devices", "",
                                     "write " + found->id + " or " + d.id);
        found = &d;
    }
    if (found == nullptr)
        return quantity::problem("there is no device “" + name + "”", "",
                                 "enter it in Walk, or write “from the service”");
    return found->id;
}

quantity::Result<Use> parseUse(const std::string& part, const catalog::Catalog& catalog,
                               const house::House& house) {
    const auto notUnderstood = [&](const std::string& what) {
        return quantity::problem("“" + part + "”: " + what, "",
                                 "write it like “2 4K streams + 8 calls + backup 400 GB in 3 h”");
    };
    Use use;
    std::string text = part;
    std::string rest;
    const UseClass* cls = classIn(text, catalog, rest);
    if (cls == nullptr) {
        // A number in front of it is how often.
        const std::size_t digits =
            std::min({text.find_first_not_of("0123456789"), text.size(), std::size_t{4}});
        if (digits == 0) return notUnderstood("no use has this name");
        use.count = std::stoi(text.substr(0, digits));
        std::string behind = trimmed(text.substr(digits));
        if (behind.starts_with("x ") || behind.starts_with("× "))
            behind = trimmed(behind.substr(behind.find(' ')));
        cls = classIn(behind, catalog, rest);
    }
    if (cls == nullptr) return notUnderstood("no use has this name");
    if (use.count < 1 || use.count > maxAtOnce) return notUnderstood("1 to 999 at once");
    use.useClass = cls->id;
    auto peer = takePeer(rest, house);
    if (!peer) return tl::unexpected(peer.error());
    use.peer = std::move(*peer);
    if (const auto volume = volumeIn(rest)) {
        use.volume = volume->first;
        use.hours = volume->second;
    } else if (!rest.empty()) {
        const auto rate = quantity::parseBitRate(rest);
        if (!rate) return notUnderstood("“" + rest + "” is neither a rate nor an amount in a time");
        use.rate = *rate;
    } else if (cls->volume) {
        return notUnderstood("say how much in how long");
    }
    return use;
}

} // namespace

std::string peerOf(const house::House& house, catalog::PeerKind kind) {
    if (kind == catalog::PeerKind::service) return std::string(house::servicePeer);
    const house::Device* best = nullptr;
    if (kind != catalog::PeerKind::house)
        for (const house::Device& d : house.devices)
            if (d.kind == house::DeviceKind::host && d.storage &&
                (best == nullptr || d.storage->disks > best->storage->disks))
                best = &d;
    return best == nullptr ? std::string() : best->id;
}

namespace {

void add(std::vector<Traffic>& all, const Traffic& one) {
    for (Traffic& t : all)
        if (t.peer == one.peer && t.atOnce == one.atOnce) {
            t.down = t.down + one.down;
            t.up = t.up + one.up;
            return;
        }
    all.push_back(one);
}

// The figures of a spot in place of what follows from its uses: what they are more or less comes from its
// peer.
void setFigures(Need& need, const house::House& house, const house::Spot& spot) {
    if (!spot.needDown && !spot.needUp) return;
    const std::string peer = !spot.peer.empty() ? spot.peer
                             : house.service    ? std::string(house::servicePeer)
                                                : std::string();
    if (spot.needDown) {
        need.down = *spot.needDown;
        for (Traffic& t : need.traffic)
            t.down = {};
    }
    if (spot.needUp) {
        need.up = *spot.needUp;
        for (Traffic& t : need.traffic)
            t.up = {};
    }
    add(need.traffic, {peer, spot.needDown.value_or(BitRate()), spot.needUp.value_or(BitRate()), 1});
    std::erase_if(need.traffic, [](const Traffic& t) { return t.down.bps() <= 0 && t.up.bps() <= 0; });
    need.because.emplace_back("figures of the spot go before its uses");
}

} // namespace

Need needOf(const house::House& house, const house::Spot& spot, const catalog::Catalog& catalog) {
    Need out;
    double down = 0;
    double up = 0;
    for (const Use& use : spot.uses) {
        const UseClass* cls = catalog.planning.use(use.useClass);
        if (cls == nullptr) continue;
        const UseRates one = ratesOfUse(use, *cls);
        down += one.down * use.count;
        up += one.up * use.count;
        std::string peer = use.peer.empty() ? peerOf(house, cls->peer) : use.peer;
        if (peer == spot.device) peer.clear(); // not with itself
        add(out.traffic,
            {peer, BitRate::bitsPerSecond(one.down * use.count), BitRate::bitsPerSecond(one.up * use.count),
             cls->steady ? 1 : house.weighing.atOnce});
        if (cls->delay && (!out.delay || *cls->delay < *out.delay)) out.delay = cls->delay;
        out.steady = out.steady || (cls->steady && !cls->buffered);
        out.because.push_back(usesText({use}, catalog, house) + ": " +
                              plain(BitRate::bitsPerSecond(one.down * use.count)) + " there, " +
                              plain(BitRate::bitsPerSecond(one.up * use.count)) + " back");
    }
    out.down = BitRate::bitsPerSecond(down);
    out.up = BitRate::bitsPerSecond(up);
    setFigures(out, house, spot);
    if (spot.needDelay) out.delay = spot.needDelay;
    out.steady = spot.needSteady.value_or(out.steady);
    return out;
}

quantity::Result<std::vector<Use>> parseUses(std::string_view text, const catalog::Catalog& catalog,
                                             const house::House& house) {
    constexpr std::size_t maxUses = 32;
    constexpr std::size_t maxUsesBytes = 2000;
    if (text.size() > maxUsesBytes)
        return quantity::problem("this is longer than 2000 letters", "", "shorten it");
    std::vector<Use> out;
    for (const std::string& part : partsOf(text)) {
        auto use = parseUse(part, catalog, house);
        if (!use) return tl::unexpected(use.error());
        out.push_back(std::move(*use));
    }
    if (out.size() > maxUses)
        return quantity::problem("a spot has at most 32 uses", "", "put alike ones together: “8 calls”");
    return out;
}

namespace {

// "8 h", "1.5 h": without the noughts that only say how exact it is.
std::string hoursText(double hours) {
    std::string out = quantity::significant(hours, 4);
    if (out.find_first_of(".,") != std::string::npos) {
        out.erase(out.find_last_not_of('0') + 1);
        if (out.back() == '.' || out.back() == ',') out.pop_back();
    }
    return out + " h";
}

} // namespace

std::string usesText(const std::vector<Use>& uses, const catalog::Catalog& catalog,
                     const house::House& house) {
    // A label that would be read otherwise, or is that of several, gives way to the id.
    const auto ended = [&](const Use& use, const UseClass& cls) {
        if (use.peer.empty()) return std::string();
        const std::string word = cls.up > cls.down ? " to " : " from ";
        if (use.peer == house::servicePeer) return word + theService;
        const house::Device* device = house.device(use.peer);
        const std::string& label = device == nullptr ? use.peer : device->label;
        std::string one = "x" + word + label;
        const auto back = takePeer(one, house);
        const bool reads =
            partsOf(label).size() == 1 && partsOf(label).front() == label && back && *back == use.peer;
        return word + (reads ? label : use.peer);
    };
    std::string out;
    for (const Use& use : uses) {
        const UseClass* cls = catalog.planning.use(use.useClass);
        if (cls == nullptr) continue;
        if (!out.empty()) out += " + ";
        if (use.count != 1) out += std::to_string(use.count) + " ";
        // The second word, where there is one, is the plural.
        out += use.count != 1 && cls->words.size() > 1 ? cls->words[1] : cls->words.front();
        if (use.volume && use.hours)
            out += " " + quantity::plain(*use.volume) + " in " + hoursText(*use.hours);
        else if (use.rate)
            out += " " + plain(*use.rate);
        out += ended(use, *cls);
    }
    return out;
}

} // namespace metrodos::weigh
