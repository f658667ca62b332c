// The section: everything stands in its room, every known wire is drawn, the SVG is well formed.
#include "report/section.h"
#include "support/houses.h"
#include "support/plant.h"
#include "support/random_house.h"

#include <QTest>
#include <QXmlStreamReader>
#include <map>

using namespace metrodos;
using namespace metrodos::testing;

namespace {

const report::DrawnMark* mark(const report::Section& s, const Id& id) {
    for (const auto& m : s.marks)
        if (m.id == id) return &m;
    return nullptr;
}

bool inside(const report::Box& a, const report::Box& b) {
    return a.x >= b.x && a.y >= b.y && a.x + a.width <= b.x + b.width && a.y + a.height <= b.y + b.height;
}

} // namespace

class TestSection : public QObject {
    Q_OBJECT

  private slots:
    void higherFloorsStandHigher() {
        House h;
        h.rooms = {
            {"cellar", "Cellar", -1}, {"hall", "Hall", 0}, {"loft", "Loft", 2}, {"barn", "Barn", 0, "Barn"}};
        const auto s = report::drawSection(h);
        std::map<Id, report::Box> boxes;
        for (const auto& room : s.rooms)
            boxes[room.id] = room.box;
        QVERIFY(boxes["loft"].y < boxes["hall"].y && boxes["hall"].y < boxes["cellar"].y);
        QVERIFY(boxes["barn"].x > boxes["hall"].x + boxes["hall"].width);
        QCOMPARE(boxes["barn"].y, boxes["hall"].y);
        QCOMPARE(s.ground, boxes["hall"].y + boxes["hall"].height);
        QCOMPARE(report::floorName(-1), std::string("cellar"));
    }
    void everythingStandsInItsRoomAndNothingOverlaps() {
        for (std::uint32_t seed = 1; seed <= 60; ++seed) {
            const House h = RandomHouse(seed).make({6, 8, 5});
            const auto s = report::drawSection(h);
            QCOMPARE(s.rooms.size() >= h.rooms.size(), true);
            for (std::size_t i = 0; i < s.rooms.size(); ++i)
                for (std::size_t j = i + 1; j < s.rooms.size(); ++j) {
                    const auto& a = s.rooms[i].box;
                    const auto& b = s.rooms[j].box;
                    QVERIFY(a.x + a.width <= b.x + 0.01 || b.x + b.width <= a.x + 0.01 ||
                            a.y + a.height <= b.y || b.y + b.height <= a.y);
                }
            for (const Jack& jack : h.jacks) {
                const auto* m = mark(s, jack.id);
                QVERIFY(m != nullptr);
                for (const auto& room : s.rooms)
                    if (room.id == jack.room) QVERIFY(inside(m->box, room.box));
            }
            for (const auto& wire : s.wires)
                for (const auto& p : wire.points)
                    QVERIFY(p.x >= 0 && p.x <= s.width && p.y >= 0 && p.y <= s.height);
            // Names stand free: of each other, and of every wire.
            for (std::size_t i = 0; i < s.marks.size(); ++i) {
                const auto& a = s.marks[i].words;
                QVERIFY(s.marks[i].lines.size() >= 1 && s.marks[i].lines.size() <= 2);
                for (std::size_t j = i + 1; j < s.marks.size(); ++j) {
                    const auto& b = s.marks[j].words;
                    QVERIFY(a.x + a.width <= b.x + 0.01 || b.x + b.width <= a.x + 0.01 ||
                            a.y + a.height <= b.y + 0.01 || b.y + b.height <= a.y + 0.01);
                }
                for (const auto& wire : s.wires)
                    for (std::size_t k = 0; k + 1 < wire.points.size(); ++k) {
                        const auto& p = wire.points[k];
                        const auto& q = wire.points[k + 1];
                        QVERIFY(p.x == q.x || p.y == q.y); // along the walls
                        const bool crosses =
                            std::max(p.x, q.x) > a.x + 0.01 && std::min(p.x, q.x) < a.x + a.width - 0.01 &&
                            std::max(p.y, q.y) > a.y + 0.01 && std::min(p.y, q.y) < a.y + a.height - 0.01;
                        QVERIFY2(!crosses, (wire.label + " over " + s.marks[i].label).c_str());
                    }
            }
        }
    }
    void knownRunsAreDrawnAndLooseEndsMarked() {
        House h = coaxTreeHouse(true, true);
        auto s = report::drawSection(h);
        for (const Connection& c : h.connections)
            QVERIFY2(std::any_of(s.wires.begin(), s.wires.end(), [&](const auto& w) { return w.id == c.id; }),
                     c.id.c_str());
        h.connection("run-a")->ends[0] = {"cupboard", ""};
        s = report::drawSection(h);
        QVERIFY(std::any_of(s.marks.begin(), s.marks.end(),
                            [](const auto& m) { return m.kind == report::MarkKind::loose_end; }));
        const House mains = mainsHouse();
        s = report::drawSection(mains);
        const auto circuits = std::count_if(s.wires.begin(), s.wires.end(),
                                            [](const auto& w) { return w.medium == Medium::mains; });
        QVERIFY(circuits >= 5 * 7);
    }
    void theSvgIsWellFormedAndChoosesMedia() {
        House h = coaxTreeHouse(true, true);
        h.rooms[0].label = "A < B & \"C\"";
        const auto s = report::drawSection(h);
        const auto all = QByteArray::fromStdString(report::toSvg(s));
        QXmlStreamReader xml(all);
        int lines = 0;
        while (!xml.atEnd()) {
            xml.readNext();
            if (xml.isStartElement() && xml.name() == QStringLiteral("polyline")) ++lines;
        }
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        QCOMPARE(lines, static_cast<int>(s.wires.size()));
        QVERIFY(!QByteArray::fromStdString(report::toSvg(s, {Medium::mains})).contains("polyline"));
    }
    void longNamesAreBrokenAtBlanksAndCutShort() {
        House h;
        h.rooms = {{"hall", "Hall", 0}};
        h.jacks = {{"a", "Loft coax 1", "hall", JackKind::coax},
                   {"b", "Coax adapter at the landing", "hall", JackKind::coax},
                   {"c", "Übergabepunktverteilerdose", "hall", JackKind::coax}};
        const auto s = report::drawSection(h);
        QCOMPARE(mark(s, "a")->lines, (std::vector<std::string>{"Loft coax 1"}));
        QCOMPARE(mark(s, "b")->lines, (std::vector<std::string>{"Coax adapter", "at the landing"}));
        QCOMPARE(mark(s, "c")->lines, (std::vector<std::string>{"Übergabepunkt…"}));
        QCOMPARE(mark(s, "c")->label, std::string("Übergabepunktverteilerdose"));
    }
    // A wide page gets a wide house, a narrow one a high one.
    void theArrangementFollowsThePage() {
        const House h = RandomHouse(5).make({6, 30, 5});
        const auto wide = report::drawSection(h, 4);
        const auto high = report::drawSection(h, 0.7);
        QVERIFY(wide.width / wide.height > high.width / high.height);
    }
    void anEmptyHouseIsDrawnToo() {
        const auto s = report::drawSection({});
        QVERIFY(s.width > 0 && s.height > 0);
        QVERIFY(!report::toSvg(s).empty());
    }
};

QTEST_GUILESS_MAIN(TestSection)
#include "test_section.moc"
