#include "desktop/survey_fields.h"
#include "weigh/need.h"

namespace metrodos::desktop {
namespace {

using namespace fields;

SurveyColumn endsColumn(const char* title, std::size_t which) {
    return readOnly(title, [which](const House& h, int row) {
        const Connection& c = h.connections[static_cast<std::size_t>(row)];
        return c.ends.size() > which ? text(h.labelOf(c.ends[which])) : tr("not found yet");
    });
}

// Categories for data cable, types for coax: which, the row decides.
SurveyColumn cableColumn(const catalog::Catalog& catalog) {
    SurveyColumn data = classOf("Type", &House::connections, &Connection::cableClass, catalog.cables);
    SurveyColumn coax = classOf("Type", &House::connections, &Connection::cableClass, catalog.coax.cables);
    const auto isCoax = [](const House& h, int row) {
        return h.connections[static_cast<std::size_t>(row)].medium == Medium::coax;
    };
    return {data.title, [=](const House& h, int row) { return (isCoax(h, row) ? coax : data).get(h, row); },
            [=](House& h, int row, const std::string& value) {
                return (isCoax(h, row) ? coax : data).set(h, row, value);
            },
            [=](const House& h) { return data.choices(h) + coax.choices(h).mid(1); }};
}

SurveyColumn outletsColumn() {
    return {tr("Outlets in order, wire before each"),
            [](const House& h, int row) {
                QStringList out;
                for (const CircuitOutlet& o : h.circuits[static_cast<std::size_t>(row)].outlets) {
                    const Jack* jack = h.jack(o.jack);
                    out << text(jack == nullptr ? o.jack : jack->label) +
                               (o.fromPrevious
                                    ? QStringLiteral(" ") + localised(quantity::plain(*o.fromPrevious))
                                    : QString());
                }
                return out.join(QStringLiteral("; "));
            },
            [](House& h, int row, const std::string& value) -> Result<void> {
                std::vector<CircuitOutlet> outlets;
                for (const QString& part : text(value).split(QLatin1Char(';'), Qt::SkipEmptyParts)) {
                    const QString one = part.trimmed();
                    CircuitOutlet o;
                    for (const Jack& jack : h.jacks) // the longest label that begins it
                        if (jack.kind == JackKind::mains &&
                            one.startsWith(text(jack.label), Qt::CaseInsensitive) &&
                            (o.jack.empty() || jack.label.size() > h.jack(o.jack)->label.size()))
                            o.jack = jack.id;
                    if (o.jack.empty())
                        return problem("there is no outlet “" + one.left(60).toStdString() + "”", "",
                                       "write outlets like “Loft outlet 1 4 m; Loft outlet 2”");
                    const QString tail = one.mid(text(h.jack(o.jack)->label).size()).trimmed();
                    if (!tail.isEmpty()) {
                        const auto length = quantity::parseLength(tail.toStdString());
                        if (!length) return tl::unexpected(length.error());
                        o.fromPrevious = *length;
                    }
                    outlets.push_back(std::move(o));
                }
                h.circuits[static_cast<std::size_t>(row)].outlets = std::move(outlets);
                return {};
            },
            {}};
}

// A field of something of which a house has one, or of an optional part: reached through `of`, nullptr when
// absent.
template <typename Thing>
SurveyColumn single(const char* title, std::function<Thing*(House&, int)> of,
                    std::function<QString(const Thing&)> get,
                    std::function<Result<void>(Thing&, const std::string&)> set,
                    std::function<QStringList(const House&)> choices = {}) {
    return {tr(title),
            [=](const House& h, int row) {
                const Thing* thing = of(const_cast<House&>(h), row); // reads only
                return thing == nullptr ? QString() : get(*thing);
            },
            [=](House& h, int row, const std::string& value) -> Result<void> {
                Thing* thing = of(h, row);
                if (thing == nullptr) return problem("it has none", "", "choose its class first");
                return set(*thing, value);
            },
            std::move(choices)};
}

template <typename Thing>
SurveyColumn singleRate(const char* title, std::function<Thing*(House&, int)> of,
                        std::optional<quantity::BitRate> Thing::*field) {
    return single<Thing>(
        title, of, [field](const Thing& t) { return t.*field ? bothText(*(t.*field)) : QString(); },
        [field](Thing& t, const std::string& value) -> Result<void> {
            (t.*field).reset();
            if (value.empty()) return {};
            const auto parsed = quantity::parseBitRate(value.substr(0, value.find(" ·")));
            if (!parsed) return tl::unexpected(parsed.error());
            t.*field = *parsed;
            return {};
        });
}

template <typename Thing>
SurveyColumn singleYesNo(const char* title, std::function<Thing*(House&, int)> of,
                         std::optional<bool> Thing::*field) {
    return single<Thing>(
        title, of,
        [field](const Thing& t) { return t.*field ? (*(t.*field) ? tr("yes") : tr("no")) : QString(); },
        [field](Thing& t, const std::string& value) -> Result<void> {
            t.*field = value.empty() ? std::nullopt : std::optional(text(value) == tr("yes"));
            return {};
        },
        [](const House&) {
            return QStringList{QString(), tr("yes"), tr("no")};
        });
}

std::vector<SurveyColumn> serviceColumns() {
    const std::function<Service*(House&, int)> of = [](House& h, int) {
        return h.service ? &*h.service : nullptr;
    };
    return {single<Service>(
                "Service", of, [](const Service& s) { return text(s.label); },
                [](Service& s, const std::string& value) -> Result<void> {
                    s.label = value;
                    return {};
                }),
            readOnly("Ends in",
                     [](const House& h, int) {
                         const Device* box = h.service ? h.device(h.service->device) : nullptr;
                         return box == nullptr ? QString() : text(box->label);
                     }),
            singleRate<Service>("Down", of, &Service::down), singleRate<Service>("Up", of, &Service::up),
            single<Service>(
                "Test address", of, [](const Service& s) { return text(s.testUrl); },
                [](Service& s, const std::string& value) -> Result<void> {
                    if (!value.empty() && !value.starts_with("http://") && !value.starts_with("https://"))
                        return problem("“" + value.substr(0, 60) + "” is not a web address", "",
                                       "write it like http://server/large-file");
                    s.testUrl = value;
                    return {};
                })};
}

std::vector<SurveyColumn> coaxUseColumns() {
    const std::function<CoaxUse*(House&, int)> of = [](House& h, int) { return &h.coaxUse; };
    return {singleYesNo<CoaxUse>("Television", of, &CoaxUse::television),
            singleYesNo<CoaxUse>("Satellite dish", of, &CoaxUse::satellite),
            single<CoaxUse>(
                "Cable internet up to, MHz", of,
                [](const CoaxUse& u) {
                    return u.cableInternetTop ? QString::number(u.cableInternetTop->inMegahertz())
                                              : QString();
                },
                [](CoaxUse& u, const std::string& value) -> Result<void> {
                    u.cableInternetTop.reset();
                    if (value.empty()) return {};
                    const auto mhz = quantity::parseWhole(value, 5, 3000);
                    if (!mhz)
                        return problem("“" + value.substr(0, 40) + "” is not a frequency", "",
                                       "write it in MHz, like 1218");
                    u.cableInternetTop = quantity::Frequency::megahertz(static_cast<double>(*mhz));
                    return {};
                })};
}

// Class, number and layout of a machine's disks.
std::vector<SurveyColumn> diskColumns(const catalog::Catalog& catalog) {
    std::vector<std::pair<std::string, QString>> known;
    for (const auto& disk : catalog.disks)
        known.emplace_back(disk.id, text(disk.label));
    SurveyColumn cls{tr("Disks"),
                     [known](const House& h, int row) {
                         const auto& storage = h.devices[static_cast<std::size_t>(row)].storage;
                         for (const auto& [id, label] : known)
                             if (storage && storage->diskClass == id) return label;
                         return QString();
                     },
                     [known](House& h, int row, const std::string& value) -> Result<void> {
                         Device& d = h.devices[static_cast<std::size_t>(row)];
                         if (d.kind != DeviceKind::host)
                             return problem("only a machine has disks", "", "choose a machine");
                         if (value.empty()) {
                             d.storage.reset();
                             return {};
                         }
                         for (const auto& [id, label] : known)
                             if (label == text(value)) {
                                 if (!d.storage) d.storage.emplace();
                                 d.storage->diskClass = id;
                                 return {};
                             }
                         return problem("“" + value.substr(0, 60) + "” is not in the catalog", "",
                                        "choose one of the list");
                     },
                     [known](const House&) {
                         QStringList out{QString()};
                         for (const auto& [id, label] : known)
                             out << label;
                         return out;
                     }};
    const std::function<Storage*(House&, int)> of = [](House& h, int row) {
        auto& storage = h.devices[static_cast<std::size_t>(row)].storage;
        return storage ? &*storage : nullptr;
    };
    SurveyColumn count = single<Storage>(
        "How many", of, [](const Storage& s) { return QString::number(s.disks); },
        [](Storage& s, const std::string& value) -> Result<void> {
            const auto n = quantity::parseWhole(value, 1, 64);
            if (!n)
                return problem("“" + value.substr(0, 40) + "” does not fit here", "",
                               "write a whole number from 1 to 64");
            s.disks = static_cast<int>(*n);
            return {};
        });
    SurveyColumn layout = single<Storage>(
        "Together", of, [](const Storage& s) { return text(std::string(name(s.layout))); },
        [](Storage& s, const std::string& value) -> Result<void> {
            const auto l = diskLayout(value);
            if (!l)
                return problem("“" + value.substr(0, 40) + "” is not a choice", "", "choose one of the list");
            s.layout = *l;
            return {};
        },
        [](const House&) {
            return QStringList{QStringLiteral("single"), QStringLiteral("stripe"), QStringLiteral("mirror"),
                               QStringLiteral("parity")};
        });
    return {cls, count, layout};
}

// The class of a device among those of its kind.
SurveyColumn deviceClassColumn(const catalog::Catalog& catalog) {
    std::vector<std::pair<std::string, QString>> known;
    for (const auto& c : catalog.hosts)
        known.emplace_back(c.id, text(c.label));
    for (const auto& c : catalog.devices)
        known.emplace_back(c.id, text(c.label));
    return {tr("Class"),
            [known](const House& h, int row) {
                for (const auto& [id, label] : known)
                    if (id == h.devices[static_cast<std::size_t>(row)].deviceClass) return label;
                return QString();
            },
            [known, &catalog](House& h, int row, const std::string& value) -> Result<void> {
                Device& d = h.devices[static_cast<std::size_t>(row)];
                const bool isHost = d.kind == DeviceKind::host;
                for (const auto& [id, label] : known)
                    if (label == text(value)) {
                        if ((catalog.host(id) != nullptr) != isHost)
                            return problem("“" + value.substr(0, 60) + "” is another kind of device", "",
                                           "choose a class of its kind");
                        d.deviceClass = id;
                        return {};
                    }
                if (!value.empty())
                    return problem("“" + value.substr(0, 60) + "” is not in the catalog", "",
                                   "choose one of the list");
                d.deviceClass.clear();
                return {};
            },
            [known](const House&) {
                QStringList out{QString()};
                for (const auto& [id, label] : known)
                    out << label;
                return out;
            }};
}

SurveyColumn hoursColumn() {
    return {tr("Hours"),
            [](const House& h, int row) {
                QStringList out;
                for (const HourSpan& span : h.appliances[static_cast<std::size_t>(row)].hours)
                    out << QStringLiteral("%1–%2").arg(span.from).arg(span.to);
                return out.join(QStringLiteral(", "));
            },
            [](House& h, int row, const std::string& value) -> Result<void> {
                std::vector<HourSpan> hours;
                for (const QString& part : text(value)
                                               .replace(QChar(0x2013), QLatin1Char('-'))
                                               .split(QLatin1Char(','), Qt::SkipEmptyParts)) {
                    const QStringList ends = part.trimmed().split(QLatin1Char('-'));
                    bool a = false;
                    bool b = false;
                    if (ends.size() == 2)
                        hours.push_back({ends[0].trimmed().toInt(&a), ends[1].trimmed().toInt(&b)});
                    if (!a || !b)
                        return problem("“" + part.toStdString() + "” is not a span of hours", "",
                                       "write them like 9-12, 18-23");
                }
                h.appliances[static_cast<std::size_t>(row)].hours = std::move(hours);
                return {};
            },
            {}};
}

// What is done at a spot, in words. The catalog is the model's and outlives every table.
SurveyColumn usesColumn(const catalog::Catalog& catalog) {
    return {tr("Uses"),
            [&catalog](const House& h, int row) {
                return QString::fromStdString(
                    weigh::usesText(h.spots[static_cast<std::size_t>(row)].uses, catalog));
            },
            [&catalog](House& h, int row, const std::string& value) -> Result<void> {
                auto uses = weigh::parseUses(value, catalog);
                if (!uses) return tl::unexpected(uses.error());
                h.spots[static_cast<std::size_t>(row)].uses = std::move(*uses);
                return {};
            },
            {}};
}

// The idle round trip at most.
SurveyColumn delayColumn() {
    return {tr("Delay at most"),
            [](const House& h, int row) {
                const auto& delay = h.spots[static_cast<std::size_t>(row)].needDelay;
                return delay ? delayText(static_cast<double>(delay->count())) : QString();
            },
            [](House& h, int row, const std::string& value) -> Result<void> {
                auto& target = h.spots[static_cast<std::size_t>(row)].needDelay;
                target.reset();
                if (value.empty()) return {};
                const auto time = quantity::parseDuration(value);
                constexpr double longest = 10; // s
                if (!time || time->count() > longest)
                    return problem("“" + value.substr(0, 40) + "” is no delay", "", "write it like 50 ms");
                target = std::chrono::duration_cast<std::chrono::microseconds>(*time);
                return {};
            },
            {}};
}

SurveyColumn portsColumn(const catalog::Catalog& catalog) {
    return readOnly("Ports", [phys = catalog.phys, buses = catalog.buses](const House& h, int row) {
        QStringList out;
        for (const Port& port : h.devices[static_cast<std::size_t>(row)].ports) {
            QString rate;
            for (const auto& phy : phys)
                if (phy.id == port.phy) rate = text(phy.label);
            for (const auto& bus : buses)
                if (bus.id == port.phy) rate = text(bus.label);
            const Jack* jack = h.jack(port.jack);
            out << text(port.label.empty() ? port.id : port.label) +
                       (rate.isEmpty() ? QString() : QStringLiteral(" ") + rate) +
                       (jack == nullptr ? QString() : QStringLiteral(" → ") + text(jack->label));
        }
        return out.join(QStringLiteral("; "));
    });
}

// One row a port, over all devices.
Port* portAt(House& h, int row) {
    for (Device& d : h.devices) {
        if (row < static_cast<int>(d.ports.size())) return &d.ports[static_cast<std::size_t>(row)];
        row -= static_cast<int>(d.ports.size());
    }
    return nullptr;
}
const Port* portAt(const House& h, int row) {
    return portAt(const_cast<House&>(h), row); // reads only
}

const Device* ownerAt(const House& h, int row) {
    for (const Device& d : h.devices) {
        if (row < static_cast<int>(d.ports.size())) return &d;
        row -= static_cast<int>(d.ports.size());
    }
    return nullptr;
}

std::vector<SurveyColumn> portColumns(const catalog::Catalog& catalog) {
    SurveyColumn device =
        readOnly("Device", [](const House& h, int row) { return text(ownerAt(h, row)->label); });
    SurveyColumn label{tr("Port"),
                       [](const House& h, int row) { return text(portAt(h, row)->label); },
                       [](House& h, int row, const std::string& value) -> Result<void> {
                           portAt(h, row)->label = value;
                           return {};
                       },
                       {}};
    SurveyColumn kind = readOnly(
        "Kind", [](const House& h, int row) { return text(std::string(name(portAt(h, row)->kind))); });
    std::vector<std::pair<std::string, QString>> rates;
    for (const auto& phy : catalog.phys)
        rates.emplace_back(phy.id, text(phy.label));
    for (const auto& bus : catalog.buses)
        rates.emplace_back(bus.id, text(bus.label));
    SurveyColumn phy{tr("Rate"),
                     [rates](const House& h, int row) {
                         for (const auto& [id, name] : rates)
                             if (id == portAt(h, row)->phy) return name;
                         return QString();
                     },
                     [rates](House& h, int row, const std::string& value) -> Result<void> {
                         portAt(h, row)->phy.clear();
                         h.forgetLinks(ownerAt(h, row)->id);
                         for (const auto& [id, name] : rates)
                             if (name == text(value)) portAt(h, row)->phy = id;
                         return {};
                     },
                     [rates](const House&) {
                         QStringList out{QString()};
                         for (const auto& [id, name] : rates)
                             out << name;
                         return out;
                     }};
    SurveyColumn jack{tr("Plugged into"),
                      [](const House& h, int row) {
                          const Jack* j = h.jack(portAt(h, row)->jack);
                          return j == nullptr ? QString() : text(j->label);
                      },
                      [](House& h, int row, const std::string& value) -> Result<void> {
                          Port* port = portAt(h, row);
                          port->jack.clear();
                          for (const Jack& j : h.jacks)
                              if (j.label == value) port->jack = j.id;
                          if (!value.empty() && port->jack.empty())
                              return problem("there is no jack “" + value.substr(0, 60) + "”", "",
                                             "choose one of the list");
                          return {};
                      },
                      [](const House& h) {
                          QStringList out{QString()};
                          for (const Jack& j : h.jacks)
                              out << text(j.label);
                          return out;
                      }};
    SurveyColumn strip{
        tr("Strip"),
        [](const House& h, int row) {
            const Port* port = portAt(h, row);
            return port->kind == PortKind::mains
                       ? text(std::string(name(port->strip))).replace(QLatin1Char('_'), QLatin1Char(' '))
                       : QString();
        },
        [](House& h, int row, const std::string& value) -> Result<void> {
            std::string id = value;
            std::replace(id.begin(), id.end(), ' ', '_');
            const auto s = house::strip(id);
            if (!s)
                return problem("“" + value.substr(0, 40) + "” is not a choice", "", "choose one of the list");
            portAt(h, row)->strip = *s;
            return {};
        },
        [](const House&) {
            return QStringList{QStringLiteral("unknown"), QStringLiteral("wall"), QStringLiteral("plain"),
                               QStringLiteral("surge protected")};
        }};
    return {device, label, kind, phy, jack, strip};
}

} // namespace

std::vector<SurveyColumn> columnsOf(SurveyKind kind, const catalog::Catalog& catalog) {
    const std::function<bool(const Jack&)> isOutlet = [](const Jack& j) { return j.kind == JackKind::mains; };
    switch (kind) {
    case SurveyKind::rooms:
        return {words("Room", &House::rooms, &Room::label),
                whole("Floor", &House::rooms, &Room::floor, -10, 100),
                words("Building", &House::rooms, &Room::building)};
    case SurveyKind::jacks:
        return {words("Jack", &House::jacks, &Jack::label),
                link("Room", &House::jacks, &Jack::room, &House::rooms),
                word("Kind", &House::jacks, &Jack::kind, &jackKind,
                     {JackKind::data, JackKind::coax, JackKind::mains, JackKind::phone})};
    case SurveyKind::runs:
        return {
            words("Run", &House::connections, &Connection::label),
            readOnly("Medium",
                     [](const House& h, int row) {
                         return text(std::string(name(h.connections[static_cast<std::size_t>(row)].medium)))
                             .replace(QLatin1Char('_'), QLatin1Char(' '));
                     }),
            endsColumn("From", 0),
            endsColumn("To", 1),
            cableColumn(catalog),
            metres("Length", &House::connections, &Connection::length),
            whole("Sound pairs", &House::connections, &Connection::goodPairs, 0, 4),
            classOf("Ends made", &House::connections, &Connection::termination, catalog.terminations),
            whole("Bad connectors", &House::connections, &Connection::badConnectors, 0, 2),
            yesNo("Loose end terminated", &House::connections, &Connection::endTerminated),
            whole("Walls", &House::connections, &Connection::walls, 0, 20),
            whole("Stations", &House::connections, &Connection::stations, 1, 256)};
    case SurveyKind::coax_parts:
        return {words("Part", &House::coaxParts, &CoaxPart::label),
                word("Kind", &House::coaxParts, &CoaxPart::kind, &coaxPartKind,
                     {CoaxPartKind::entry, CoaxPartKind::splitter, CoaxPartKind::amplifier,
                      CoaxPartKind::filter, CoaxPartKind::joint}),
                link("Room", &House::coaxParts, &CoaxPart::room, &House::rooms),
                whole("Ways", &House::coaxParts, &CoaxPart::ways, 2, 8),
                yesNo("Rated for the band", &House::coaxParts, &CoaxPart::rated),
                yesNo("Open ports terminated", &House::coaxParts, &CoaxPart::terminated),
                yesNo("Bypass", &House::coaxParts, &CoaxPart::bypass)};
    case SurveyKind::panels:
        return {words("Panel", &House::panels, &Panel::label),
                link("Room", &House::panels, &Panel::room, &House::rooms),
                link("Fed by", &House::panels, &Panel::fedBy, &House::panels)};
    case SurveyKind::circuits:
        return {words("Circuit", &House::circuits, &Circuit::label),
                link("Panel", &House::circuits, &Circuit::panel, &House::panels),
                words("Leg", &House::circuits, &Circuit::leg),
                word("Device", &House::circuits, &Circuit::protection, &protection,
                     {Protection::unknown, Protection::breaker, Protection::fuse,
                      Protection::residual_current, Protection::arc_fault}),
                classOf("Wiring", &House::circuits, &Circuit::wiring, catalog.mains.wirings),
                outletsColumn()};
    case SurveyKind::appliances:
        return {words("Appliance", &House::appliances, &Appliance::label),
                classOf("Class", &House::appliances, &Appliance::applianceClass, catalog.mains.appliances),
                link("Outlet", &House::appliances, &Appliance::outlet, &House::jacks, isOutlet),
                hoursColumn()};
    case SurveyKind::devices: {
        std::vector<SurveyColumn> out{
            words("Device", &House::devices, &Device::label),
            link("Room", &House::devices, &Device::room, &House::rooms),
            readOnly("Kind",
                     [](const House& h, int row) {
                         return text(std::string(name(h.devices[static_cast<std::size_t>(row)].kind)))
                             .replace(QLatin1Char('_'), QLatin1Char(' '));
                     }),
            deviceClassColumn(catalog)};
        for (SurveyColumn& column : diskColumns(catalog))
            out.push_back(std::move(column));
        out.push_back(portsColumn(catalog));
        return out;
    }
    case SurveyKind::ports:
        return portColumns(catalog);
    case SurveyKind::needs:
        return {words("Spot", &House::spots, &Spot::label),
                link("Room", &House::spots, &Spot::room, &House::rooms),
                link("Device", &House::spots, &Spot::device, &House::devices),
                usesColumn(catalog),
                rate("Needs towards it", &House::spots, &Spot::needDown),
                rate("Needs from it", &House::spots, &Spot::needUp),
                delayColumn(),
                yesNo("Steady", &House::spots, &Spot::needSteady)};
    case SurveyKind::service:
        return serviceColumns();
    case SurveyKind::coax_use:
        return coaxUseColumns();
    }
    return {};
}

} // namespace metrodos::desktop
