#include "desktop/measure/run_controls.h"

#include "desktop/measure/advanced_panel.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "quantity/parse.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSpinBox>

namespace metrodos::desktop {
namespace {

using benchmark::Direction;
using benchmark::Protocol;

enum Ways { forward, backward, inTurn, together };

QSpinBox* spin(int low, int high, int value, const QString& name, const QString& tip) {
    auto* box = new QSpinBox;
    box->setRange(low, high);
    box->setValue(value);
    box->setObjectName(name);
    box->setToolTip(tip);
    box->setAccessibleName(tip);
    return box;
}

} // namespace

RunControls::RunControls(AdvancedPanel& advanced, QWidget* parent)
    : QWidget(parent)
    , m_advanced(advanced) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(8, 0, 0, 0);
    m_direction = new QComboBox;
    m_direction->setObjectName(QStringLiteral("direction"));
    m_direction->setAccessibleName(tr("Directions"));
    m_direction->addItem(tr("both ways in turn"), inTurn);
    m_direction->addItem(tr("both ways at once"), together);
    m_direction->addItem(tr("forward"), forward);
    m_direction->addItem(tr("backward"), backward);
    m_direction->setMinimumWidth(138);
    layout->addWidget(m_direction);
    m_streams = spin(1, benchmark::maxStreams, 4, QStringLiteral("streams"), tr("Parallel TCP streams"));
    m_streams->setSuffix(tr(" streams"));
    layout->addWidget(m_streams);
    m_rateLabel = plainLabel(tr("datagrams at"));
    layout->addWidget(m_rateLabel);
    m_rate = new QLineEdit(QStringLiteral("50M"));
    m_rate->setObjectName(QStringLiteral("rate"));
    m_rate->setToolTip(tr("Pace of the datagrams, like 50M or 1.2G"));
    m_rate->setMaximumWidth(76);
    layout->addWidget(m_rate);
    m_seconds = new QComboBox;
    m_seconds->setObjectName(QStringLiteral("seconds"));
    for (const int s : {1, 5, 10, 30, 60, 300, 3600})
        m_seconds->addItem(s < 3600 ? tr("%1 s").arg(s) : tr("1 h"), s);
    m_seconds->setCurrentIndex(2);
    m_repeat = spin(1, 100, 1, QStringLiteral("repeat"), tr("Runs in each direction"));
    const auto labelled = [&](const QString& text, QWidget* field) {
        auto* label = plainLabel(text);
        label->setBuddy(field);
        layout->addWidget(label);
        layout->addWidget(field);
    };
    labelled(tr("&length"), m_seconds);
    labelled(tr("re&peat"), m_repeat);
    connect(&m_advanced, &AdvancedPanel::changed, this, &RunControls::showProtocol);
    showProtocol();
}

void RunControls::showProtocol() {
    const bool udp = m_advanced.protocol() == Protocol::udp;
    m_rate->setVisible(udp);
    m_rateLabel->setVisible(udp);
    m_streams->setVisible(!udp);
}

std::vector<std::vector<benchmark::RunConfig>> RunControls::steps() {
    benchmark::RunConfig config;
    config.seconds = m_seconds->currentData().toDouble();
    const auto ordered = m_advanced.ordered(config);
    if (!ordered) return {};
    config = *ordered;
    if (config.protocol == Protocol::udp) {
        const auto rate = quantity::parseBitRate(m_rate->text().toStdString());
        if (!rate || rate->bps() < benchmark::minPace || rate->bps() > benchmark::maxPace) {
            m_rate->setFocus();
            m_rate->selectAll();
            Q_EMIT refused(
                tr("“%1” is no pace for datagrams; write it like 50M or 1.2G.").arg(m_rate->text()));
            return {};
        }
        config.rate = *rate;
    } else {
        config.streams = m_streams->value();
    }
    const int ways = m_direction->currentData().toInt();
    std::vector<std::vector<benchmark::RunConfig>> out;
    for (int i = 0; i < m_repeat->value(); ++i) {
        std::vector<benchmark::RunConfig> both;
        for (const Direction d : {Direction::forward, Direction::backward}) {
            config.direction = d;
            if (ways == together)
                both.push_back(config);
            else if (ways == inTurn || ways == (d == Direction::forward ? forward : backward))
                out.push_back({config});
        }
        if (!both.empty()) out.push_back(std::move(both));
    }
    return out;
}

void RunControls::setStreams(int streams) {
    m_advanced.setProtocol(Protocol::tcp);
    m_streams->setValue(streams);
}

} // namespace metrodos::desktop
