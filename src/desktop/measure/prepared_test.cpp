#include "desktop/measure/prepared_test.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace metrodos::desktop {

PreparedTest::PreparedTest(QWidget* parent)
    : QFrame(parent)
    , m_text(plainLabel())
    , m_hint(plainLabel()) {
    setObjectName(QStringLiteral("trial"));
    m_text->setObjectName(QStringLiteral("preparedTest"));
    m_text->setFont(textFont(16, true));
    m_text->setWordWrap(true);
    m_hint->setObjectName(QStringLiteral("quiet"));
    auto* drop = new QPushButton(tr("Not this one  (Esc)"));
    drop->setObjectName(QStringLiteral("dropTest"));
    auto* texts = new QVBoxLayout;
    texts->addWidget(m_text);
    texts->addWidget(m_hint);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 8, 10, 8);
    layout->addLayout(texts, 1);
    layout->addWidget(drop, 0, Qt::AlignTop);
    connect(drop, &QPushButton::clicked, this, &PreparedTest::drop);
    hide();
}

void PreparedTest::prepare(const trace::NextTest& test, const house::Id& route) {
    m_test = test;
    m_route = route;
    m_text->setText(QString::fromStdString(test.does));
    m_hint->setText(
        test.pace ? tr("Set it up, then press Space: datagrams at %1, both ways.").arg(rateText(*test.pace))
                  : tr("Set it up, then press Space: four streams, both ways."));
    show();
    Q_EMIT shown();
}

void PreparedTest::drop() {
    if (!m_test) return;
    m_test.reset();
    hide();
    Q_EMIT shown();
}

void PreparedTest::keepFor(const house::Id& route) {
    if (route != m_route) drop();
}

std::vector<std::vector<benchmark::RunConfig>> PreparedTest::configs() const {
    std::vector<std::vector<benchmark::RunConfig>> out;
    for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
        benchmark::RunConfig config;
        config.direction = direction;
        config.streams = m_test ? m_test->shape.streams : 4;
        if (m_test && m_test->pace) {
            config.protocol = benchmark::Protocol::udp;
            config.streams = 1;
            config.rate = m_test->pace;
        }
        out.push_back({config});
    }
    return out;
}

} // namespace metrodos::desktop
