// What is read and said of machines, adapters, codes and messages, as it was kept.
#include "job/house_json.h"
#include "probe/adapter_status.h"
#include "probe/datagram_format.h"
#include "probe/guest_messages.h"
#include "probe/guest_policy.h"
#include "probe/http_connection.h"
#include "probe/invitation.h"
#include "probe/machine.h"
#include "probe/machine_sheet.h"
#include "probe/message.h"
#include "probe/note_network.h"
#include "probe/qr_code.h"
#include "probe/schedule_keeper.h"
#include "probe/words.h"
#include "support/bounds.h"
#include "support/classes.h"
#include "support/houses.h"
#include "support/kept.h"

#include <QTest>

using namespace metrodos;
using namespace metrodos::probe;
using nlohmann::json;
using testing::classes;

namespace {

json rowsOf(const std::vector<FactRow>& rows) {
    json out = json::array();
    for (const FactRow& r : rows)
        out.push_back({r.port, r.what, r.now, r.other});
    return out;
}

} // namespace

class TestKeptReadings : public QObject {
    Q_OBJECT

  private slots:
    void ofMachines() {
        json all;
        MachineFacts before;
        for (const json& told : testing::jsonIn("tests/houses/machines.json")) {
            const MachineFacts read = readFacts(told);
            json of{{"remarks", remarks(read, "192.0.2.7")},
                    {"sheet", rowsOf(sheetOf(read, &before))},
                    {"turns", testing::turnsOfEach(told, [&](const json& form) {
                         const MachineFacts changed = readFacts(form);
                         std::string out;
                         for (const std::string& line : remarks(changed))
                             out += testing::withoutFigures(line) + "; ";
                         for (const PartCeiling& c : partCeilings(changed, classes()))
                             out += c.part + " " + testing::withoutFigures(c.because) + "; ";
                         return out;
                     })}};
            for (const PartCeiling& c : partCeilings(read, classes()))
                of["ceilings"].push_back({c.port, c.part, c.goodput.inMegabits(), c.because});
            of["radio"] =
                radioUp({&read, &before}).has_value() ? (*radioUp({&read, &before}) ? "up" : "down") : "?";
            for (const house::House& house : {testing::coaxHouse(), testing::fullHouse()})
                for (const house::Endpoint& e : house.endpoints) {
                    const auto noted = noteFacts(house, classes(), e.id, read, "192.0.2.7");
                    of["noted"].push_back(noted ? json(noted->changes) : json(noted.error().sentence()));
                    if (noted) of["after"].push_back(testing::digestOf(job::toJson(noted->house)));
                }
            all.push_back(std::move(of));
            before = read;
        }
        QVERIFY_KEPT("machines", all);
    }
    void ofCodesAndWords() {
        json all;
        for (const std::string text :
             {"METRODOS:192.0.2.7:47710/", "http://192.0.2.7:8080/", "A", "0123456789",
              "a longer text of letters, with signs: + - ( ) and umlauts: \xc3\xa4"}) {
            const auto code = encodeQr(text);
            all["codes"][text] = code ? json{code->side, terminalText(*code)} : json(code.error().sentence());
        }
        const std::vector<std::uint8_t> bits{0x00, 0x01, 0x7f, 0x80, 0xff, 0x5a,
                                             0xa5, 0x3c, 0xc3, 0x10, 0x20};
        for (const std::size_t count : {1UL, 3UL, 8UL}) {
            const std::string words = toWords(bits, count);
            const auto read = readWords(words, count);
            QVERIFY(read.has_value() && read->size() == count);
            all["words"].push_back({words, *read});
        }
        for (const std::string& typed : testing::keptKeys("codes", "typed")) {
            const auto read = readWords(typed, 2);
            all["typed"][typed] = read ? json(*read) : json(read.error().sentence());
        }
        std::array<std::uint8_t, 16> bytes{};
        for (std::size_t i = 0; i < bytes.size(); ++i)
            bytes[i] = static_cast<std::uint8_t>(17 * i + 3);
        const Key key(bytes);
        all["key"] = key.text();
        for (const Invitation& i : {Invitation{"192.0.2.7:47710", key}, Invitation{"", key},
                                    Invitation{"[2001:db8::7]:47710", std::nullopt}}) {
            all["invitations"].push_back(i.text());
            QCOMPARE(Invitation::parse(i.text()).value(), i);
        }
        for (const std::string& text : testing::keptKeys("codes", "invited")) {
            const auto read = Invitation::parse(text);
            all["invited"][text] = read ? read->text() : read.error().sentence();
        }
        Token token{};
        std::copy(bytes.begin(), bytes.end(), token.begin());
        for (const OpeningKind kind :
             {OpeningKind::hello, OpeningKind::challenge, OpeningKind::answer, OpeningKind::welcome}) {
            Opening opening;
            opening.kind = kind;
            opening.token = token;
            opening.cookie.fill(0x42);
            const auto written = write(opening);
            all["openings"].push_back(written);
            for (std::size_t less = 0; less <= written.size(); ++less)
                QCOMPARE(readOpening(std::span(written).first(less)).has_value(), less == written.size());
        }
        std::array<unsigned char, flowHeadBytes> head{};
        writeHead({markOf(token), 70000, 123456789012345}, head.data());
        all["head"] = head;
        QCOMPARE(readHead(head)->number, std::uint64_t(70000));
        QVERIFY(!readHead(std::span(head).first(flowHeadBytes - 1)));
        QVERIFY_KEPT("codes", all);
    }
    void ofAdaptersAndNetworks() {
        json all;
        for (const std::string& page : testing::keptKeys("adapters", "adapters")) {
            const auto status = adapterStatusIn(page);
            all["adapters"][page] = status ? toJson(*status) : json(status.error().sentence());
        }
        for (const house::House& house : {testing::coaxHouse(), testing::wiredHouse()}) {
            LocalNetwork local;
            const auto address = [](const char* text) { return quantity::IpAddress::parse(text).value(); };
            local.addresses = {{"lan0", "02:00:5e:10:00:01", address("192.0.2.7"),
                                quantity::IpPrefix::parse("192.0.2.0/24").value()}};
            local.gateways = {{"lan0", address("192.0.2.1")}};
            local.neighbours = {{"lan0", "02:00:5e:10:00:02", address("192.0.2.9")},
                                {"lan0", "", address("198.51.100.9")}};
            const NotedNetwork noted = noteNetwork(house, local);
            json of{{"changes", noted.changes}};
            for (const SeenAddress& s : noted.seen)
                of["seen"].push_back({s.address.text(), s.hardware, s.where});
            all["networks"].push_back(of);
        }
        const GuestPolicy policy("<html><script>1</script><style>b</style></html>",
                                 {"192.0.2.7", "[2001:db8::7]"}, {8080, 8081});
        HttpRequest own;
        own.host = "192.0.2.7:8080";
        all["policy"] = {policy.fields(), policy.hosts(), policy.streamFields(own), policy.pageFields(own)};
        for (const char* method : {"GET", "POST", "PUT"})
            for (const char* host :
                 {"192.0.2.7:8080", "192.0.2.7:8081", "evil.example:8080", "192.0.2.7", ""})
                for (const char* origin : {"", "http://192.0.2.7:8080", "http://evil.example"})
                    for (const char* site : {"", "same-origin", "cross-site"}) {
                        HttpRequest r;
                        r.method = method;
                        r.target = "/";
                        r.host = host;
                        r.origin = origin;
                        r.fetchSite = site;
                        for (const std::uint16_t at : {std::uint16_t{8080}, std::uint16_t{8081}}) {
                            const auto no = policy.refusal(r, at);
                            all["refusals"].push_back(no ? json{no->status, no->why} : json("taken"));
                        }
                    }
        for (std::size_t stream = 0; stream < 9; ++stream)
            all["stream-ports"].push_back(portOfStream(stream, {8080, 8081, 8082}));
        QVERIFY_KEPT("adapters", all);
    }
    // Orders with one field missing, negative or a text.
    void ofMessages() {
        RunTask task;
        task.run = "run-1";
        task.config.streams = 4;
        task.config.rate = quantity::BitRate::megabits(100);
        DataTarget target{"192.0.2.7", 47711, 47712, {}};
        json all;
        const auto spoilt = [&](const char* name, const json& whole, const auto& read) {
            for (const auto& [key, value] : whole.items())
                for (const json& other : {json(), json(-1), json("?"), json(1e18), json::array()}) {
                    json message = whole;
                    message[key] = other;
                    const auto taken = read(message);
                    all[name][key].push_back(taken ? "taken" : taken.error().sentence());
                }
        };
        spoilt("task", toJson(task), readTask);
        spoilt("target", toJson(target), readTarget);
        spoilt("file", toJson(FileOrder{5'000'000, true}), readFileOrder);
        spoilt("made", toJson(FileMade{0.5}), readFileMade);
        QVERIFY_KEPT("messages", all);
    }
    // How far each figure, text and list of a message may go.
    void ofBounds() {
        const auto bounds = [](const json& whole, const auto& read) {
            if (!read(whole)) qFatal("the whole is not taken");
            return testing::boundsOf(whole, [&](const json& form) { return read(form).has_value(); });
        };
        // What the readers say by an exception, as reading() has it.
        const auto sound = [](const auto& read) {
            return [read](const json& form) { return quantity::fields::ifSound([&] { return read(form); }); };
        };
        json all;
        RunTask task;
        task.run = "run-1";
        task.config.streams = 4;
        task.config.seconds = 9.5;
        task.config.maxBytes = 5'000'000;
        task.config.rate = quantity::BitRate::megabits(100);
        task.config.bind = "192.0.2.7";
        task.config.congestion = "cubic";
        task.config.windowBytes = 400'000;
        task.config.segmentBytes = 1200;
        task.config.dscp = 8;
        all["task"] = bounds(toJson(task), readTask);
        all["target"] = bounds(toJson(DataTarget{"192.0.2.7", 47711, 47712, {}}), readTarget);
        all["file"] = bounds(toJson(FileOrder{5'000'000, true}), readFileOrder);
        all["made"] = bounds(toJson(FileMade{0.5}), readFileMade);
        GuestState state{{"http://192.0.2.7:8080/abc"},
                         "abc",
                         std::chrono::seconds(60),
                         true,
                         "cable",
                         "192.0.2.9",
                         "it is busy."};
        all["guest"] = bounds(toJson(state), readGuestState);
        std::vector<GuestLeg> legs(2);
        legs[0].config.streams = 4;
        legs[1].config.direction = benchmark::Direction::backward;
        all["legs"] = bounds(guestOrder(legs), readGuestOrder);
        const house::Schedule schedule{"nights", "Nights", "r", "2026-05-04T20:00:00Z", 30, 48, 5,
                                       4,        true,     3};
        std::array<std::uint8_t, 16> bytes{};
        all["assignment"] =
            bounds(toJson(Assignment{schedule, "192.0.2.7:47710", Key(bytes)}), sound(readAssignment));
        ScheduleRecord record;
        record.number = 7;
        record.slot = 1'777'888'800;
        record.at = 1'777'888'801.5;
        record.uptime = {"boot", 5000.5};
        record.peerAhead = 0.25;
        record.problem = "nobody there.";
        all["record"] = bounds(toJson(record), sound(readRecord));
        all["status"] = bounds({{"format", "metrodos-adapter-status"},
                                {"name", "A"},
                                {"firmware", "1.2"},
                                {"priority", "calls"},
                                {"peers", json::array({{{"name", "B"}, {"phy_to_bps", 9e8}}})}},
                               adapterStatusOf);
        QVERIFY_KEPT("bounds-messages", all);
    }
};

QTEST_GUILESS_MAIN(TestKeptReadings)
#include "test_kept_readings.moc"
