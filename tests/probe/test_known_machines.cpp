// The list of machines that this computer has met: what is kept, what is not believed, and several programs
// at once.
#include "probe/known_machines.h"
#include "support/agents.h"

#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace metrodos;
using namespace metrodos::probe;

namespace {

struct Folder {
    QTemporaryDir folder;
    std::filesystem::path path = folder.filePath("machines").toStdString();
    KnownMachines known{path};

    void write(const std::string& text) const {
        std::filesystem::create_directories(path);
        std::ofstream(path / "machines.json") << text;
    }
    [[nodiscard]] std::vector<KnownMachine> list() const { return known.load().value(); }
    [[nodiscard]] int keyFiles() const {
        int out = 0;
        for (const auto& entry : std::filesystem::directory_iterator(path))
            out += entry.path().extension() == ".key" ? 1 : 0;
        return out;
    }
};

KnownMachine machine(const std::string& name, const std::string& address) {
    KnownMachine out;
    out.name = name;
    out.address = address;
    out.pairedBy = "anna@laptop";
    return out;
}

} // namespace

class TestKnownMachines : public QObject {
    Q_OBJECT

  private slots:
    void whatWasMetIsKept() {
        const Folder f;
        QVERIFY(f.list().empty());
        QVERIFY(f.known.keysFor("10.0.0.5").empty());
        const Key key = Key::generate();
        const auto id = f.known.add(machine("store", "10.0.0.5:47710"), key);
        QVERIFY(id.has_value());
        const KnownMachine kept = f.list().at(0);
        QCOMPARE(kept.id, *id);
        QCOMPARE(kept.name, std::string("store"));
        QCOMPARE(kept.kind, MachineKind::agent);
        QCOMPARE(kept.pairedBy, std::string("anna@laptop"));
        QCOMPARE(kept.identity, credentialOf(key).identity);
        QVERIFY(kept.hasOwnKey && !kept.isRevoked);
        QCOMPARE(kept.pairedAt.size(), std::size_t(20));
        QCOMPARE(kept.seenAt, kept.pairedAt);
        // The list itself has no key in it, and nobody else can look.
        std::ifstream stream(f.path / "machines.json");
        const std::string text{std::istreambuf_iterator<char>(stream), {}};
        QVERIFY(text.find(key.text()) == std::string::npos);
        QCOMPARE(std::filesystem::status(f.path).permissions(), std::filesystem::perms::owner_all);
    }
    void theLikeliestKeyComesFirst() {
        const Folder f;
        const Key here = Key::generate();
        const Key there = Key::generate();
        QVERIFY(f.known.add(machine("a", "10.0.0.5"), there).has_value());
        QVERIFY(f.known.add(machine("b", "10.0.0.6:47710"), here).has_value());
        QCOMPARE(f.known.keysFor("10.0.0.6"),
                 (std::vector<Key>{here, there})); // with the usual port or without
        QCOMPARE(f.known.keysFor("10.0.0.5:47710"), (std::vector<Key>{there, here}));
        QCOMPARE(f.known.keysFor("10.0.0.7").size(), std::size_t(2)); // it may have a new address
    }
    void aKeyThatIsRevokedIsGone() {
        const Folder f;
        const Key key = Key::generate();
        const std::string id = f.known.add(machine("store", "10.0.0.5"), key).value();
        QCOMPARE(f.keyFiles(), 1);
        QVERIFY(f.known.revoke(id).has_value());
        QCOMPARE(f.keyFiles(), 0);
        QVERIFY(f.known.keysFor("10.0.0.5").empty());
        QVERIFY(f.list().at(0).isRevoked);
        // Met anew, it takes the place of the old record.
        QVERIFY(f.known.add(machine("store", "10.0.0.5"), Key::generate()).has_value());
        QCOMPARE(f.list().size(), std::size_t(1));
        QVERIFY(!f.list().at(0).isRevoked);
        // Two of one name that are both in use stay two.
        QVERIFY(f.known.add(machine("store", "10.0.0.8"), Key::generate()).has_value());
        QCOMPARE(f.list().size(), std::size_t(2));
        QVERIFY(f.known.drop(f.list().at(0).id).has_value());
        QCOMPARE(f.list().size(), std::size_t(1));
        QCOMPARE(f.keyFiles(), 1);
    }
    void whoAnswersIsSeen() {
        const Folder f;
        const testing::LoopbackAgent agent("cellar box");
        const testing::LoopbackAgent second("attic box");
        // With the shared key several are told apart by their names.
        QVERIFY(connectKnown(agent.address, {agent.key}, &f.known).has_value());
        QVERIFY(connectKnown(second.address, {agent.key, second.key}, &f.known).has_value());
        QVERIFY(connectKnown(agent.address, {agent.key}, &f.known).has_value());
        QCOMPARE(f.list().size(), std::size_t(2));
        QCOMPARE(f.list()[0].name, std::string("attic box")); // by name
        QCOMPARE(f.list()[1].address, agent.address);
        QVERIFY(!f.list()[0].hasOwnKey && f.list()[0].pairedBy.empty());
        QCOMPARE(f.keyFiles(), 0);
        // One with a key of its own is found by it, whatever it calls itself now and wherever it is.
        const std::string id = f.known.add(machine("old name", "10.0.0.5"), second.key).value();
        QVERIFY(connectKnown(second.address, f.known.keysFor(second.address), &f.known).has_value());
        const auto list = f.list();
        const auto it =
            std::find_if(list.begin(), list.end(), [&](const KnownMachine& m) { return m.id == id; });
        QVERIFY(it != list.end() && it->hasOwnKey);
        QCOMPARE(it->name, std::string("attic box"));
        QCOMPARE(it->address, second.address);
        // No key fits, or there is none: one sentence, and no note.
        QVERIFY(!connectKnown(agent.address, {Key::generate()}, &f.known).has_value());
        const auto none = connectKnown(agent.address, {}, &f.known);
        QVERIFY(!none.has_value() && none.error().advice.find("eight words") != std::string::npos);
        QCOMPARE(f.list().size(), list.size());
        // A device with a browser is another thing.
        KnownMachine device = machine("attic box", "10.0.0.9");
        device.kind = MachineKind::browser;
        QVERIFY(f.known.see(device).has_value() && f.known.see(device).has_value());
        QCOMPARE(f.list().size(), list.size() + 1);
    }
    void whatIsNoListIsSaidAndLeftAlone() {
        const nlohmann::json good{{"id", "A1"},           {"name", "x"},     {"kind", "agent"},
                                  {"address", "a"},       {"seen_at", ""},   {"identity", ""},
                                  {"has_own_key", false}, {"paired_at", ""}, {"paired_by", ""},
                                  {"is_revoked", false}};
        const auto document = [](const nlohmann::json& one) {
            return nlohmann::json{
                {"format", "metrodos-machines"}, {"version", 1}, {"machines", nlohmann::json::array({one})}}
                .dump();
        };
        const auto with = [&](const char* field, const nlohmann::json& value) {
            nlohmann::json one = good;
            one[field] = value;
            return document(one);
        };
        const Folder sound;
        sound.write(with("name", "two\nlines\x1b[2J"));
        QCOMPARE(sound.list().at(0).name, std::string("two lines[2J"));
        // A list of one MiB is the longest.
        const std::string longest = document(good) + std::string((1U << 20U) - document(good).size(), ' ');
        sound.write(longest);
        QCOMPARE(sound.list().size(), std::size_t(1));
        sound.write(longest + " ");
        QVERIFY(!sound.known.load().has_value());
        for (const std::string& text :
             {std::string("nonsense"), std::string("[]"), std::string(R"({"format":"other"})"),
              with("id", "../../key"), with("id", ""), with("id", std::string(100, 'a')),
              with("kind", "toaster"), with("name", 5), with("is_revoked", "no"),
              std::string(2'000'000, ' ')}) {
            const Folder f;
            f.write(text);
            QVERIFY2(!f.known.load().has_value(), text.substr(0, 60).c_str());
            // Nothing is written over it.
            QVERIFY(!f.known.add(machine("store", "10.0.0.5"), Key::generate()).has_value());
            std::ifstream stream(f.path / "machines.json");
            QCOMPARE((std::string{std::istreambuf_iterator<char>(stream), {}}), text);
        }
    }
    void severalAtOnceLoseNothing() {
        const Folder f;
        {
            std::vector<std::jthread> threads;
            for (int t = 0; t < 4; ++t)
                threads.emplace_back([&f, t] {
                    const KnownMachines own(f.path); // as another program would
                    for (int i = 0; i < 10; ++i)
                        (void)own.add(machine("m" + std::to_string(10 * t + i), "10.0.0.5"), Key::generate());
                });
        }
        QCOMPARE(f.list().size(), std::size_t(40));
        QCOMPARE(f.keyFiles(), 40);
    }
    void theLongestUnseenGivesWay() {
        const Folder f;
        nlohmann::json list = nlohmann::json::array();
        for (std::size_t i = 0; i < maxKnownMachines; ++i)
            list.push_back({{"id", "A" + std::to_string(i)},
                            {"name", "m" + std::to_string(i)},
                            {"kind", "agent"},
                            {"address", "a"},
                            {"seen_at", i == 7 ? "2020-01-01T00:00:00Z" : "2026-01-01T00:00:00Z"},
                            {"identity", "metrodos x"},
                            {"has_own_key", false},
                            {"paired_at", ""},
                            {"paired_by", ""},
                            {"is_revoked", false}});
        f.write(nlohmann::json{{"format", "metrodos-machines"}, {"version", 1}, {"machines", list}}.dump());
        QVERIFY(f.known.add(machine("new", "10.0.0.5"), Key::generate()).has_value());
        const auto after = f.list();
        QCOMPARE(after.size(), maxKnownMachines);
        QVERIFY(
            std::none_of(after.begin(), after.end(), [](const KnownMachine& m) { return m.name == "m7"; }));
        QVERIFY(
            std::any_of(after.begin(), after.end(), [](const KnownMachine& m) { return m.name == "new"; }));
    }
};

QTEST_GUILESS_MAIN(TestKnownMachines)
#include "test_known_machines.moc"
