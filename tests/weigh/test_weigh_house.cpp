#include <QTest>
class TestWeighHouse : public QObject {
    Q_OBJECT
};
QTEST_GUILESS_MAIN(TestWeighHouse)
#include "test_weigh_house.moc"
