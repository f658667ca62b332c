#include "desktop/prepared_test.h"

#include "desktop/rate_text.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace metrodos::desktop {

PreparedTest::PreparedTest(QWidget* parent)
    : QFrame(parent)
    , m_text(new QLabel) {
    setObjectName(QStringLiteral("trial"));
    m_text->setObjectName(QStringLiteral("preparedTest"));
    m_text->setFont(textFont(16, true));
    m_text->setWordWrap(true);
    auto* hint = new QLabel(tr("Press Space when it is set up: four streams, both ways."));
    hint->setObjectName(QStringLiteral("quiet"));
    auto* drop = new QPushButton(tr("Not this one  (Esc)"));
    drop->setObjectName(QStringLiteral("dropTest"));
    auto* texts = new QVBoxLayout;
    texts->addWidget(m_text);
    texts->addWidget(hint);
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
    m_text->setText(localised(test.does));
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

std::vector<std::vector<benchmark::RunOrder>> PreparedTest::orders() const {
    std::vector<std::vector<benchmark::RunOrder>> out;
    for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
        benchmark::RunOrder order;
        order.direction = direction;
        order.streams = m_test ? m_test->arrangement.streams : 4;
        out.push_back({order});
    }
    return out;
}

} // namespace metrodos::desktop
