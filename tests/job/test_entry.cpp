// Fast entry and tables: a house typed in line by line, and as CSV.
#include "capacity/predict.h"
#include "house/findings.h"
#include "house/propose.h"
#include "house/route.h"
#include "house/validate.h"
#include "job/csv.h"
#include "job/entry_grammar.h"
#include "job/entry_line.h"
#include "job/house_json.h"
#include "job/survey_table.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/paths.h"
#include "support/plant.h"
#include "support/random_house.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

House typed(const std::vector<std::string>& lines) {
    House h;
    for (const std::string& line : lines) {
        auto next = job::enterLine(h, classes(), line);
        if (!next) qFatal("%s: %s", line.c_str(), next.error().sentence().c_str());
        h = next->house;
    }
    return h;
}

std::string complaint(const House& h, const std::string& line) {
    const auto next = job::enterLine(h, classes(), line);
    return next ? "" : next.error().sentence();
}

} // namespace

class TestEntry : public QObject {
    Q_OBJECT

  private slots:
    void aHouseIsTypedIn() {
        const House h = typed(testing::typedLines("typed-house"));
        QVERIFY(validate(h).empty());
        QCOMPARE(h.rooms.size(), std::size_t(3));
        QCOMPARE(h.rooms[2].building, std::string("Barn"));
        QCOMPARE(h.service->down->inMegabits(), 900.0);
        QCOMPARE(h.service->device, h.devices[0].id);
        QCOMPARE(h.coaxParts[1].ways, 3);
        QCOMPARE(h.coaxParts[1].rated, std::optional(false));
        const Connection& hallCoax = h.connections[1];
        QCOMPARE(hallCoax.cableClass, std::string("rg59"));
        QVERIFY(std::fabs(hallCoax.length->inMetres() - 9.144) < 1e-9);
        QCOMPARE(hallCoax.badConnectors, std::optional(1));
        QCOMPARE(hallCoax.ends[1], (PortRef{h.coaxParts[1].id, "out-2"})); // the next free port
        const Connection& data = h.connections[2];
        QCOMPARE(data.cableClass, std::string("cat6"));
        QCOMPARE(data.goodPairs, std::optional(4));
        QCOMPARE(data.termination, std::string("tested"));
        QCOMPARE(data.ends[1].device, h.devices[0].id);
        QCOMPARE(h.circuits[0].protection, Protection::residual_current);
        QCOMPARE(h.circuits[0].outlets.size(), std::size_t(2));
        QCOMPARE(h.circuits[0].outlets[1].fromPrevious->inMetres(), 4.0);
        QVERIFY(h.jack("loft-outlet-2") != nullptr); // numbered by room and kind
        const Device& machine = h.devices[1];
        QCOMPARE(machine.deviceClass, std::string("workstation"));
        QCOMPARE(machine.storage->diskClass, std::string("nvme"));
        QCOMPARE(machine.ports.size(), std::size_t(2)); // the socket and the LAN port
        QCOMPARE(h.endpoints.size(), std::size_t(1));
        QCOMPARE(h.spots[0].device, machine.id);
        QCOMPARE(h.appliances[0].hours[0].to, 23);
        QCOMPARE(h.appliances[0].outlet, Id("loft-outlet-2"));
    }
    // "at" names a jack that the thing has a port for; another is said, not passed over.
    void whatIsNotPluggedInThereIsSaid() {
        const House h = typed({"Loft / floor 2", "Loft / outlet", "Loft / data", "Loft / coax"});
        for (const char* line : {"Loft / laptop / at Loft outlet 1", "Loft / laptop / at Loft coax 1"}) {
            const auto result = job::enterLine(h, classes(), line);
            QVERIFY2(!result, line);
            QVERIFY(result.error().what.starts_with("nothing of it is plugged into “Loft "));
        }
        QVERIFY(job::enterLine(h, classes(), "Loft / laptop / at Loft data 1").has_value());
    }
    // A cable is called after both its ends: its label is cut between letters, and a job holds it.
    void theLongestNamesMakeACableThatCanBeSaved() {
        std::string longest = "a";
        while (longest.size() < 151)
            longest += "ü";
        const House h =
            typed({longest + " / ground floor", longest + "b / floor 1", longest + " / coax",
                   longest + "b / coax", "cable / " + longest + " coax 1 / " + longest + "b coax 1"});
        QCOMPARE(h.connections.size(), std::size_t(1));
        const std::string label = h.connections[0].label;
        QCOMPARE(label.size(), std::size_t(199)); // 200 bytes would end in half an ü
        QVERIFY(!job::toJson(h).dump().empty());  // throws on half a letter
    }
    // The way that the demo is about, from camera to stack, with nothing but typed lines.
    void aWholeRouteIsTypedIn() {
        const House h = typed(testing::typedLines("camera-to-stack"));
        QVERIFY(validate(h).empty());
        const auto found = findRoute(h, "dome-camera-end", "stacker-end");
        QVERIFY(found.has_value());
        std::vector<std::string> kinds;
        for (const Element& e : *found)
            kinds.emplace_back(name(e.kind));
        const std::vector<std::string> wanted{"host",  "port", "cable",   "port", "switch",  "port",
                                              "cable", "port", "adapter", "coax", "adapter", "port",
                                              "cable", "port", "adapter", "bus",  "host"};
        QCOMPARE(kinds, wanted);
        Route route = routeBetween(h, "dome-camera-end", "stacker-end");
        QCOMPARE(route.label, std::string("Dome camera to Stacker"));
        const auto prediction = capacity::predict(h, classes(), route).value();
        const auto limit = std::max_element(
            prediction.elements.begin(), prediction.elements.end(),
            [](const auto& a, const auto& b) { return a.limiterForward < b.limiterForward; });
        QCOMPARE(limit->element.label, std::string("front socket"));
        // USB 2.0 leaves 280 to 350 Mbit/s of 480 (handled as one road for both directions).
        const double mbps = prediction.forward.p50.inMegabits();
        QVERIFY2(mbps > 270 && mbps < 360, std::to_string(mbps).c_str());
        // The tree is joined part to part, and each adapter sits at a jack.
        QCOMPARE(h.connections[1].ends[0], (PortRef{"entry-filter", "out"}));
        QCOMPARE(h.connections[1].ends[1], (PortRef{"loft-splitter", "in"}));
        QCOMPARE(h.device("loft-end")->ports[1].jack, Id("loft-coax-1"));
        QCOMPARE(h.device("hall-end")->ports[1].jack, Id("hall-coax-1"));
    }
    void stripsAreOfTheOutletOrTheAdapter() {
        const House h = typed({"Hall / ground floor", "panel / Main / Hall", "circuit / Ring / Main",
                               "Hall / outlet / on Ring / 4 m / surge strip", "Hall / outlet / on Ring / 3 m",
                               "Hall / mains adapter, 1000–1300 class / A / at Hall outlet 1",
                               "Hall / mains adapter, 1000–1300 class / B / at Hall outlet 2 / plain strip",
                               "Hall / mains adapter, G.hn, one stream / C / at Hall outlet 2 / wall"});
        const auto strip = [&](const char* device) { return h.stripOf(h.device(device)->ports.back()); };
        QCOMPARE(strip("a"), Strip::surge_protected);
        QCOMPARE(strip("b"), Strip::plain);
        QCOMPARE(strip("c"), Strip::wall);
        QCOMPARE(h.stripAt("hall-outlet-1"), Strip::surge_protected);
        QCOMPARE(h.stripAt("nowhere"), Strip::unknown);
        // Those of one language form one network; another language none with them.
        const auto mains = std::count_if(h.connections.begin(), h.connections.end(),
                                         [](const Connection& c) { return c.medium == Medium::mains; });
        QCOMPARE(mains, 1);
        QCOMPARE(h.connections.back().ends.size(), std::size_t(2));
    }
    void whereACableOrPlugGoesIsSaid() {
        const House h = typed({"Hall / ground floor", "Hall / laptop / Lap", "Hall / laptop / Lap top",
                               "Hall / switch / S / 2 ports", "Hall / data", "port / Lap / USB 2",
                               "Hall / data / from S port 2"});
        const auto in = [&](const std::string& where) {
            return complaint(h, "Hall / USB network adapter, 1 Gbit/s / in " + where);
        };
        QCOMPARE(in("Lap"), std::string());                 // its only socket
        QCOMPARE(in("Lap USB 3, 5 Gbit/s"), std::string()); // noted with it
        QVERIFY(in("Lap top").find("has no free socket") != std::string::npos);
        QVERIFY(in("Lap front").find("no free socket of that name") != std::string::npos);
        QVERIFY(in("Desk").find("no machine") != std::string::npos);
        QVERIFY(complaint(h, "Hall / coax adapter, 500 class / in Lap").find("does not go into a machine") !=
                std::string::npos);
        QVERIFY(complaint(h, "cable / S port 1 / S port 1").find("same") != std::string::npos);
        QVERIFY(complaint(h, "cable / S / Moon").find("“Moon”") != std::string::npos);
        QVERIFY(complaint(h, "cable / S").find("two ends") != std::string::npos);
        QVERIFY(complaint(h, "entry / e / from S").find("could end") != std::string::npos);
        QVERIFY(complaint(h, "splitter / x / RG-6").find("comes from") != std::string::npos);
        QVERIFY(complaint(h, "port / Lap / front").find("what port") != std::string::npos);
        // Into a jack a port is plugged; between boxes lies a cable.
        const House plugged = job::enterLine(h, classes(), "cable / Lap top / Hall data 1").value().house;
        QCOMPARE(plugged.device("lap-top")->ports[0].jack, Id("hall-data-1"));
        QCOMPARE(plugged.connections.size(), h.connections.size());
        const House joined =
            job::enterLine(h, classes(), "cable / Lap / S port 1 / cat 6 / 3 m").value().house;
        QCOMPARE(joined.connections.back().ends[1], (PortRef{"s", "p1"}));
        QCOMPARE(joined.connections.back().cableClass, std::string("cat6"));
        QCOMPARE(joined.connections.back().label, std::string("Lap, LAN to S, port 1"));
        QVERIFY(complaint(joined, "cable / Lap top / S port 1").find("already joined") !=
                std::string::npos); // taken
    }
    void theServiceEndsInTheRouter() {
        const House h = typed({"Hall", "Hall / switch / Hub", "Hall / router / Box", "Hall / router / Second",
                               "Hall / laptop / Lap", "service / 1G down"});
        QCOMPARE(h.service->device, std::string("box"));
    }
    void routesAreProposed() {
        House h =
            typed({"Hall / ground floor", "Hall / router / Box / 5 ports", "service / 500M down / 50M up",
                   "Hall / laptop / A / from Box", "Hall / desktop / B / from Box", "Hall / desktop / Alone",
                   "Hall / need / 100M down / 20M up / calls / at A"});
        h.spots.push_back(
            {"edit", "editing", "hall", "b", quantity::BitRate::megabits(400), {}, {}, {}, {}, {}, "a"});
        const auto routes = proposedRoutes(h);
        std::vector<std::string> labels;
        for (const Route& r : routes)
            labels.push_back(r.label);
        QCOMPARE(labels, (std::vector<std::string>{"A to the service", "B to the service", "A to B"}));
        QCOMPARE(routes[0].needForward->inMegabits(), 20.0); // up, towards the service
        QCOMPARE(routes[0].needBackward->inMegabits(), 100.0);
        QVERIFY(!routes[1].needForward && !routes[1].needBackward); // its need comes from A
        QCOMPARE(routes[2].needForward->inMegabits(), 400.0);
        QVERIFY(!routes[2].needBackward);
        h.routes = {routes[2]};
        QCOMPARE(proposedRoutes(h).size(), std::size_t(2));
        QCOMPARE(proposedRoutes(h)[0].id, routes[0].id);
    }
    void anApplianceHasAnyNumberOfHours() {
        House h = typed({"Loft / floor 1", "Loft / appliance / dimmer / 18-23"});
        const auto table = job::surveyTable(job::SurveyKind::appliances, classes());
        std::size_t hours = 0;
        while (table->title(hours) != "Hours")
            ++hours;
        QVERIFY(table->set(h, 0, hours, "1-2, 3\u20134 ,22-6").has_value());
        QCOMPARE(table->text(h, 0, hours), std::string("1\u20132, 3\u20134, 22\u20136"));
    }
    void endsAreChosenInTheTable() {
        House h = typed({"Hall / ground floor", "Loft / floor 1", "entry / aerial / Loft",
                         "splitter / S / 2-way / Loft / from aerial", "Loft / coax / from S",
                         "Hall / coax / from Hall", "Hall / data"});
        const auto table = job::surveyTable(job::SurveyKind::runs, classes());
        const std::size_t row = 2; // that of the hall, loose in the hall
        std::size_t to = 0;
        while (table->title(to) != "To")
            ++to;
        QCOMPARE(table->text(h, row, to), std::string("loose in the Hall"));
        std::vector<std::string> choices;
        for (const job::Choice& c : table->choices(h, row, to))
            choices.push_back(c.label);
        const auto offers = [&](const char* label) {
            return std::find(choices.begin(), choices.end(), label) != choices.end();
        };
        QVERIFY(offers("S, out-2") && offers("not found yet") && offers("loose in the Loft"));
        QVERIFY(!offers("S, out-1") && !offers("Loft coax 1") && !offers("Hall coax 1") &&
                !offers("Hall data 1"));
        QVERIFY(table->set(h, row, to, "S, out-2").has_value());
        QCOMPARE(h.connections[row].ends[1], (PortRef{"s", "out-2"}));
        QVERIFY(!table->set(h, row, to, "S, out-1").has_value()); // another run ends there
        QVERIFY(table->set(h, row, to, "not found yet").has_value());
        QCOMPARE(h.connections[row].ends.size(), std::size_t(1));
        QVERIFY(table->set(h, row, to, "room-less").error().what.find("no free end") != std::string::npos);
        QVERIFY(table->set(h, row, to, "s/out-2").has_value()); // as the list's value has it
        QVERIFY(validate(h).empty());
    }
    void routesAreATable() {
        House h =
            typed({"Hall / ground floor", "Hall / router / Box / 5 ports", "service / 500M down / 50M up",
                   "Hall / laptop / A / from Box", "Hall / desktop / B / from Box"});
        h.routes = {routeBetween(h, "a-end", "b-end")};
        const auto table = job::surveyTable(job::SurveyKind::routes, classes());
        const auto column = [&](const std::string& title) {
            for (std::size_t c = 0; c < table->columns(); ++c)
                if (table->title(c) == title) return c;
            qFatal("no column %s", title.c_str());
        };
        const auto set = [&](const char* title, const char* value) {
            const auto done = table->set(h, 0, column(title), value);
            return done ? std::string() : done.error().what;
        };
        QCOMPARE(set("To", "internet service"), std::string());
        QCOMPARE(h.routes[0].to, h.service->id);
        QVERIFY(set("From", "internet service").find("same") != std::string::npos);
        QVERIFY(set("From", "").find("no machine") != std::string::npos);
        QCOMPARE(set("Need backward", "100M"), std::string());
        QCOMPARE(h.routes[0].needBackward->inMegabits(), 100.0);
        QCOMPARE(set("MTU", "9000"), std::string());
        QVERIFY(set("MTU", "500").find("does not fit") != std::string::npos);
        QCOMPARE(set("VLAN tag", "yes"), std::string());
        QVERIFY(h.routes[0].vlanTag);
        QVERIFY(!set("VLAN tag", "perhaps").empty());
        QCOMPARE(set("IP", "6"), std::string());
        QVERIFY(!set("IP", "5").empty());
        QCOMPARE(h.routes[0].ipVersion, 6);
        QCOMPARE(set("File copy by", classes().protocols.front().label.c_str()), std::string());
        QCOMPARE(h.routes[0].fileProtocol, classes().protocols.front().id);
        QVERIFY(validate(h).empty());
    }
    void aFieldIsTypedByItsName() {
        const House h = typed({"Loft / floor 2", "Loft / coax / RG-6 / Length 23 m / stations 4"});
        QCOMPARE(h.connections.size(), std::size_t(1));
        QCOMPARE(h.connections[0].length->inMetres(), 23.0);
        QCOMPARE(h.connections[0].stations, std::optional(4));
        QVERIFY(complaint(h, "Loft / coax / RG-6 / stations 400").find("256") != std::string::npos);
        QVERIFY(complaint(h, "Loft / coax / RG-6 / stations four").find("256") != std::string::npos);
    }
    void unknownIsALegalAnswer() {
        const House h =
            typed({"Loft / floor 2", "Loft / coax", "Loft / coax / RG-6", "Loft / outlet", "Loft / machine"});
        QVERIFY(validate(h).empty());
        QCOMPARE(h.jacks.size(), std::size_t(3));
        QCOMPARE(h.connections.size(),
                 std::size_t(1)); // the second has a cable, of unknown length and far end
        QCOMPARE(continuityList(h).size(), std::size_t(1));
        QVERIFY(h.devices[0].deviceClass.empty());
    }
    void whatIsNotUnderstoodIsOneSentence() {
        const House h = typed({"Loft / floor 2"});
        QVERIFY(complaint(h, "Attic / coax").find("enter it first") != std::string::npos);
        QVERIFY(complaint(h, "Loft / coax / banana").find("banana") != std::string::npos);
        QVERIFY(complaint(h, "Loft / coax / from Moon").find("nothing called") != std::string::npos);
        QVERIFY(complaint(h, "Loft / outlet / on moon circuit").find("no circuit") != std::string::npos);
        QVERIFY(complaint(h, "Loft / floor 2").find("already") != std::string::npos);
        QVERIFY(complaint(h, "service / 1G down").find("router") != std::string::npos);
        QVERIFY(!complaint(h, "").empty());
        QVERIFY(!complaint(h, "Loft").empty());
        // What has the form of hours or of a rate is not taken for a name.
        QVERIFY(complaint(h, "Loft / appliance / dimmer / 18-25").find("0 to 24") != std::string::npos);
        QVERIFY(complaint(h, "Loft / need / 20 apples down").find("20 apples") != std::string::npos);
        QVERIFY(!complaint(h, "Loft / need / 0 up").empty());
        QVERIFY(!complaint(h, std::string(500, 'x') + " / coax").empty());
        for (const char* line :
             {"Loft / coax / banana", "///", "Loft / need / fast", "splitter / 99-way / a / b / c"})
            QVERIFY(complaint(h, line).find('\n') == std::string::npos);
    }
    void theExampleOfANeedIsUnderstood() {
        const House h = typed({"Study", job::needExample});
        QCOMPARE(h.spots.size(), std::size_t(1));
        QCOMPARE(h.spots.front().needDown->inMegabits(), 200.0);
    }
    void theWrongFieldIsFound() {
        const House h = typed({"Hall", "Loft / floor 2", "Loft / laptop / Lap"});
        const auto wrong = [&](const char* line) { return job::wrongField(h, classes(), line); };
        QCOMPARE(wrong("Loft / coax / RG-6 / 23 m"), std::nullopt);
        QCOMPARE(wrong("Lift / coax / RG-6"), std::optional<std::size_t>(0));
        QCOMPARE(wrong("Loft / coaks / RG-6"), std::optional<std::size_t>(1));
        QCOMPARE(wrong("Loft / coax / RG-7 / 23 m"), std::optional<std::size_t>(2));
        QCOMPARE(wrong("Loft / coax / RG-6 / from Cellar / 23 m"), std::optional<std::size_t>(3));
        QCOMPARE(wrong("Loft / USB network adapter, 1 Gbit/s / in Lip"), std::optional<std::size_t>(2));
        QCOMPARE(wrong("Loft"), std::optional<std::size_t>(0)); // is there already
    }
    void aNameAloneIsARoom() {
        const House h = typed({"Hall", "Loft / floor 2"});
        QCOMPARE(h.rooms[0].label, std::string("Hall"));
        QCOMPARE(h.rooms[0].floor, 0);
        QVERIFY(complaint(h, "hall").find("already") != std::string::npos);
        for (const char* word :
             {"service", "splitter", "panel", "cable", "port", "circuit", "entry", "joint"})
            QVERIFY2(complaint(h, word).find(" / ") != std::string::npos, word); // with how it goes on
        QVERIFY(!complaint(h, "").empty());
        QVERIFY(!complaint(h, "Hall / ").empty());
    }
    void linesComeByTheDozen() {
        const std::string text =
            "# a survey\nHall\r\n\n Loft / floor 2 \nLoft / coax / RG-6\nLoft / cauliflower\nLoft / data\n";
        const auto all = job::enterLines({}, classes(), text);
        QCOMPARE(all.count, std::size_t(3));
        QCOMPARE(all.label, std::string("Loft coax 1"));
        QCOMPARE(all.house.jacks.size(), std::size_t(1));
        QCOMPARE(all.rest, (std::vector<std::string>{"Loft / cauliflower", "Loft / data"}));
        QVERIFY(all.problem->what.find("cauliflower") != std::string::npos);
        const auto rest = job::enterLines(all.house, classes(), "Loft / data");
        QCOMPARE(rest.count, std::size_t(1));
        QVERIFY(!rest.problem && rest.rest.empty());
        QCOMPARE(job::enterLines({}, classes(), "").count, std::size_t(0));
    }
    // Each form as it stands, with what is in brackets, in the order in which they are written.
    void everyFormOfTheGrammarIsUnderstood() {
        House h = typed({"panel / Other panel"});
        for (const job::LineForm& form : job::lineForms()) {
            std::string line = form.line;
            std::erase_if(line, [](char c) { return c == '[' || c == ']'; });
            const auto next = job::enterLine(h, classes(), line);
            QVERIFY2(next.has_value(), (line + ": " + (next ? "" : next.error().sentence())).c_str());
            h = next->house;
            std::string less; // and without
            int depth = 0;
            for (const char c : form.line) {
                depth += c == '[' ? 1 : 0;
                if (depth == 0) less += c;
                depth -= c == ']' ? 1 : 0;
            }
            const std::string again = complaint(h, less);
            QVERIFY2(again.empty() || again.find("already") != std::string::npos ||
                         again.find("no free socket") != std::string::npos,
                     (less + ": " + again).c_str());
        }
    }
    // From an empty house, line by line as they are proposed, to one that has everything.
    void theLineSaysWhatCanBeTypedNext() {
        House h;
        std::vector<std::string> taken;
        for (int i = 0; i < 40; ++i) {
            const auto next = job::nextLines(h, classes());
            QVERIFY(!next.empty() && next.size() <= 12);
            const auto fresh = std::find_if(next.begin(), next.end(), [&](const job::LineForm& f) {
                return std::find(taken.begin(), taken.end(), f.line) == taken.end();
            });
            if (fresh == next.end()) break;
            taken.push_back(fresh->line);
            const auto entered = job::enterLine(h, classes(), fresh->line);
            QVERIFY2(entered.has_value(), fresh->line.c_str());
            h = entered->house;
        }
        QVERIFY(h.service && !h.circuits.empty() && !h.spots.empty() && !h.endpoints.empty());
        for (const JackKind kind : {JackKind::data, JackKind::coax, JackKind::mains})
            QVERIFY(
                std::any_of(h.jacks.begin(), h.jacks.end(), [&](const Jack& j) { return j.kind == kind; }));
        for (const Medium medium : {Medium::bus, Medium::data_cable, Medium::coax})
            QVERIFY(std::any_of(h.connections.begin(), h.connections.end(),
                                [&](const Connection& c) { return c.medium == medium; }));
        QVERIFY(validate(h).empty());
    }
    void adaptersAreProposedWhereTheirJacksAre() {
        const auto offers = [](const House& h, const char* word) {
            const auto next = job::nextLines(h, classes());
            return std::any_of(next.begin(), next.end(), [&](const job::LineForm& f) {
                return f.line.find(word) != std::string::npos;
            });
        };
        const House none = typed({"Hall"});
        QVERIFY(!offers(none, "coax adapter") && !offers(none, "mains adapter") && !offers(none, "/ in "));
        QVERIFY(offers(none, "router") && offers(none, "entry / ") && offers(none, "panel / "));
        const House coax = typed({"Hall", "Hall / coax"});
        QVERIFY(offers(coax, "coax adapter") && !offers(coax, "mains adapter"));
        const House mains = typed({"Hall", "Hall / outlet", "panel / Main", "circuit / Ring / Main"});
        QVERIFY(offers(mains, "mains adapter") && !offers(mains, "coax adapter"));
        QVERIFY(offers(mains, "on Ring") && !offers(mains, "panel / ") && !offers(mains, "circuit / "));
    }
    void completionsFitTheField() {
        const House h =
            typed({"Loft / floor 2", "Hall / floor 0", "splitter / loft splitter / 3-way / Loft"});
        const auto first = [&](const char* line) {
            const auto offers = job::completions(h, classes(), line);
            return offers.empty() ? std::string() : offers.front();
        };
        QCOMPARE(first("Lo"), std::string("Loft"));
        QCOMPARE(first("Loft / co"), std::string("coax"));
        QCOMPARE(first("Loft / coax / from l"), std::string("from Loft"));
        QCOMPARE(first("Loft / coax / from loft s"), std::string("from loft splitter"));
        QCOMPARE(first("Loft / coax / from Hall / RG-1"), std::string("RG-11"));
        QVERIFY(job::completions(h, classes(), "Loft / coax / zzz").empty());
        QVERIFY(job::completions(h, classes(), "").size() <= 12);
        // A cable goes to jacks of data and coax; outlets and phone jacks have wires of their own.
        const House jacks =
            typed({"Loft / floor 2", "Loft / data", "Loft / coax", "Loft / outlet", "Loft / phone"});
        QCOMPARE(job::completions(jacks, classes(), "cable / Loft "),
                 (std::vector<std::string>{"Loft data 1", "Loft coax 1"}));
    }
    void aRoomIsDuplicated() {
        const House h = typed({"Study / floor 1", "Study / data", "Study / 2 outlets", "Study / coax"});
        const auto copy = job::duplicateRoom(h, "study", "Guest room").value();
        QCOMPARE(copy.house.jacks.size(), std::size_t(8));
        QVERIFY(copy.house.jack("guest-room-outlet-2") != nullptr);
        QCOMPARE(copy.house.rooms[1].floor, 1);
        QVERIFY(!job::duplicateRoom(h, "study", "Study"));
        QVERIFY(!job::duplicateRoom(h, "moon", "Guest room"));
    }
    void csvGoesOutAndIn() {
        House h = coaxTreeHouse(true, true);
        h.rooms[0].label = "Cupboard, with \"quotes\"";
        const House wired = wiredHouse();
        h.rooms.push_back(wired.rooms[0]);
        h.devices = wired.devices;
        for (const Connection& c : wired.connections)
            h.connections.push_back(c);
        const std::string csv = job::toCsv(h);
        House bare = h; // the same house without what the table holds
        bare.rooms.clear();
        bare.jacks.clear();
        bare.devices.clear();
        bare.connections.clear();
        const House back = job::withCsv(bare, csv).value();
        QCOMPARE(back.rooms, h.rooms);
        QCOMPARE(back.jacks, h.jacks);
        QCOMPARE(back.connections, h.connections);
        QCOMPARE(back.devices.size(), h.devices.size());
        QCOMPARE(back.devices[0].ports[0].phy, h.devices[0].ports[0].phy);
        QCOMPARE(job::toCsv(back), csv);
        QCOMPARE(job::withCsv(h, csv).value(), h); // known ids are replaced by the same
    }
    void csvOfASpreadsheetIsTaken() {
        const House h = job::withCsv({}, "\xef\xbb\xbfkind;label;floor;type;room\r\nroom;Loft;2;;\r\nroom;"
                                         "Guest room;1;;\r\njack;Loft coax 1;;coax;loft\r\n")
                            .value();
        QCOMPARE(h.rooms[1].id, Id("guest-room"));
        QCOMPARE(h.jacks[0].room, Id("loft"));
    }
    void withoutANameTheIdIsOne() {
        const auto house = job::withCsv({}, "kind,id\njack,loft-coax\n");
        QVERIFY(house.has_value());
        QCOMPARE(house->jacks.front().label, std::string("loft-coax"));
        const auto again = job::withCsv({}, job::toCsv(*house));
        QVERIFY(again.has_value());
        QVERIFY(*again == *house);
        // A name that is there and empty is a fault of the table, as it was.
        QVERIFY(!job::withCsv({}, "kind,id,label\njack,loft-coax,\n"));
        // What has a name keeps it.
        House h;
        h.jacks.emplace_back();
        h.jacks.back().id = "loft-coax";
        h.jacks.back().label = "Loft, by the window";
        const auto kept = job::withCsv(h, "kind,id\njack,loft-coax\n");
        QCOMPARE(kept->jacks.front().label, std::string("Loft, by the window"));
    }
    void badTablesAreOneSentence() {
        const auto why = [](const char* csv) {
            const auto house = job::withCsv(wiredHouse(), csv);
            return house ? std::string() : house.error().sentence();
        };
        QVERIFY(why("name,colour\nx,y\n").find("does not name the columns") != std::string::npos);
        QVERIFY(why("kind,label\nspaceship,Rocket\n").find("row 2") != std::string::npos);
        QVERIFY(why("kind,label,floor\nroom,Loft,high\n").find("floor") != std::string::npos);
        QVERIFY(why("kind,label,type,from\nrun,Run,coax,somewhere\n").find("not an end") !=
                std::string::npos);
        QVERIFY(why("kind,label\nroom,\"Loft\n").find("quotation mark") != std::string::npos);
        QVERIFY(why("kind,label,room,type\njack,J,nowhere,coax\n").find("does not exist") !=
                std::string::npos);
        QVERIFY(why("").find("columns") != std::string::npos);
    }
    void randomHousesSurviveTheirTable() {
        for (std::uint32_t seed = 1; seed <= 200; ++seed) {
            const House h = RandomHouse(seed).make({3, 4, 3});
            const auto back = job::withCsv(h, job::toCsv(h));
            QVERIFY2(back.has_value(), back ? "" : back.error().sentence().c_str());
            QCOMPARE(*back, h);
        }
    }
};

QTEST_GUILESS_MAIN(TestEntry)
#include "test_entry.moc"
