#include "desktop/measure/advanced_panel.h"

#include "benchmark/ordered.h"
#include "benchmark/run_measures.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "probe/counters.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <QComboBox>
#include <QFile>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>

namespace metrodos::desktop {
namespace {

using benchmark::Protocol;
using benchmark::RunConfig;

QLineEdit* field(const QString& name, const QString& usual, const QString& tip) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setPlaceholderText(usual);
    edit->setToolTip(tip);
    edit->setMaxLength(64);
    edit->setMinimumWidth(92);
    return edit;
}

QSpinBox* number(const QString& name, int high, const QString& tip) {
    auto* box = new QSpinBox;
    box->setObjectName(name);
    box->setRange(0, high);
    box->setSpecialValueText(AdvancedPanel::tr("usual"));
    box->setToolTip(tip);
    return box;
}

// Of this machine's kernel; an agent's may have others, which can be typed.
QStringList congestionControls() {
    QFile file(QStringLiteral("/proc/sys/net/ipv4/tcp_available_congestion_control"));
    if (!file.open(QIODevice::ReadOnly)) return {};
    constexpr qint64 most = 1000;
    return QString::fromLatin1(file.read(most)).simplified().split(QLatin1Char(' '), Qt::SkipEmptyParts);
}

// As a field has it, and what a name in a combo box means besides "".
QString typed(const QComboBox* box) {
    return box->currentIndex() == 0 && box->currentText() == box->itemText(0) ? QString()
                                                                              : box->currentText().trimmed();
}

void select(QComboBox* box, const std::string& text) {
    if (text.empty())
        box->setCurrentIndex(0);
    else
        box->setCurrentText(QString::fromStdString(text));
}

} // namespace

AdvancedPanel::AdvancedPanel(std::filesystem::path presets, QWidget* parent)
    : QFrame(parent)
    , m_presets(std::move(presets))
    , m_protocol(new QComboBox)
    , m_pace(field(QStringLiteral("pace"), tr("as fast as it goes"),
                   tr("All streams together go no faster than this, like 100M")))
    , m_congestion(new QComboBox)
    , m_window(field(QStringLiteral("window"), tr("as the kernel sizes it"),
                     tr("Socket buffers at both ends, like 256KiB")))
    , m_segment(number(QStringLiteral("segment"), benchmark::maxSegment,
                       tr("Largest TCP segment, from 88 bytes, or payload of a datagram")))
    , m_dscp(number(QStringLiteral("dscp"), 63, tr("Code point on all that is sent (RFC 2474)")))
    , m_ipVersion(new QComboBox)
    , m_bind(new QComboBox)
    , m_bytes(field(QStringLiteral("bytes"), tr("no bound"),
                    tr("End when so many were sent, like 1GB, if the time is not over before")))
    , m_warmup(field(QStringLiteral("warmup"), tr("found in the run"),
                     tr("Time to leave out at the start, like 2 s")))
    , m_preset(new QComboBox) {
    setObjectName(QStringLiteral("advanced"));
    setFrameShape(QFrame::NoFrame);
    m_protocol->setObjectName(QStringLiteral("protocol"));
    m_protocol->setToolTip(
        tr("Streams go as fast as the route lets them; datagrams keep a pace and show what is "
           "lost at it"));
    m_protocol->addItem(tr("streams"), static_cast<int>(Protocol::tcp));
    m_protocol->addItem(tr("datagrams"), static_cast<int>(Protocol::udp));
    m_congestion->setObjectName(QStringLiteral("congestion"));
    m_congestion->setEditable(true);
    m_congestion->addItem(tr("the system's own"));
    m_congestion->addItems(congestionControls());
    m_congestion->setToolTip(tr("Congestion control of the sender, as its kernel calls it"));
    m_ipVersion->setObjectName(QStringLiteral("ip-version"));
    m_ipVersion->addItem(tr("as the name resolves"), 0);
    m_ipVersion->addItem(tr("IPv4"), 4);
    m_ipVersion->addItem(tr("IPv6"), 6);
    m_bind->setObjectName(QStringLiteral("bind"));
    m_bind->setEditable(true);
    m_bind->addItem(tr("the system's choice"));
    QStringList interfaces;
    for (const auto& [interface, address] : probe::addresses())
        interfaces << QString::fromStdString(quantity::oneLine(interface));
    interfaces.removeDuplicates();
    m_bind->addItems(interfaces);
    m_bind->setToolTip(tr("Interface or address of the end that opens the connections, to send from"));
    m_preset->setObjectName(QStringLiteral("run-preset"));
    m_preset->setEditable(true);
    m_preset->lineEdit()->setPlaceholderText(tr("name of this order"));
    m_preset->setInsertPolicy(QComboBox::NoInsert);

    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(8, 2, 0, 4);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    const auto put = [grid](int row, int column, const QString& text, QWidget* w) {
        QLabel* label = labelFor(w, text);
        grid->addWidget(label, row, column, Qt::AlignRight | Qt::AlignVCenter);
        grid->addWidget(w, row, column + 1);
        w->setAccessibleName(label->text().remove(QLatin1Char('&')));
    };
    put(0, 0, tr("protocol"), m_protocol);
    put(0, 2, tr("pace"), m_pace);
    put(0, 4, tr("congestion control"), m_congestion);
    put(0, 6, tr("IP"), m_ipVersion);
    put(1, 0, tr("segment"), m_segment);
    put(1, 2, tr("window"), m_window);
    put(1, 4, tr("send from"), m_bind);
    put(1, 6, tr("DSCP"), m_dscp);
    put(2, 0, tr("warm-up"), m_warmup);
    put(2, 2, tr("bytes"), m_bytes);
    put(2, 4, tr("named order"), m_preset);
    auto* names = new QHBoxLayout;
    names->setSpacing(4);
    const auto button = [&](const QString& name, const QString& text, const QString& tip, auto does) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        b->setToolTip(tip);
        b->setFocusPolicy(Qt::TabFocus);
        connect(b, &QPushButton::clicked, this, does);
        names->addWidget(b);
    };
    button(QStringLiteral("keep-preset"), tr("Keep"), tr("Keep this order under the name"),
           [this] { keepPreset(); });
    button(QStringLiteral("drop-preset"), tr("Delete"), tr("Delete the order of this name"),
           [this] { dropPreset(); });
    button(QStringLiteral("all-usual"), tr("All as usual"), tr("Leave everything to the system again"),
           [this] { reset(); });
    grid->addLayout(names, 2, 6, 1, 2);
    for (int column = 1; column < 8; column += 2)
        grid->setColumnStretch(column, 1);

    for (QComboBox* box : {m_protocol, m_congestion, m_ipVersion, m_bind})
        connect(box, &QComboBox::currentTextChanged, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
    for (QLineEdit* edit : {m_pace, m_window, m_bytes, m_warmup})
        connect(edit, &QLineEdit::textChanged, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
    for (QSpinBox* box : {m_segment, m_dscp})
        connect(box, &QSpinBox::valueChanged, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
    connect(m_preset, &QComboBox::activated, this, &AdvancedPanel::takePreset);
    connect(m_preset->lineEdit(), &QLineEdit::returnPressed, this, &AdvancedPanel::keepPreset);
    fillPresets({});
}

Protocol AdvancedPanel::protocol() const {
    return static_cast<Protocol>(m_protocol->currentData().toInt());
}

void AdvancedPanel::setProtocol(Protocol protocol) {
    m_protocol->setCurrentIndex(m_protocol->findData(static_cast<int>(protocol)));
}

std::optional<RunConfig> AdvancedPanel::ordered(RunConfig base) {
    const auto wrong = [this](QWidget* which, const QString& sentence) -> std::optional<RunConfig> {
        QFrame::show(); // where the field is
        which->setFocus();
        Q_EMIT refused(sentence);
        return std::nullopt;
    };
    const auto text = [](const QLineEdit* edit) { return edit->text().trimmed().toStdString(); };
    base.protocol = protocol();
    if (base.protocol == Protocol::tcp && !text(m_pace).empty()) {
        const auto rate = quantity::parseBitRate(text(m_pace));
        if (!rate || rate->bps() < benchmark::minPace || rate->bps() > benchmark::maxPace)
            return wrong(m_pace, tr("“%1” is no pace; write it like 100M or 1.2G.").arg(m_pace->text()));
        base.rate = *rate;
    }
    if (!text(m_window).empty()) {
        const auto bytes = quantity::parseByteCount(text(m_window));
        constexpr std::uint64_t least = 4096;
        if (!bytes || static_cast<double>(bytes->bytes) > benchmark::maxWindow || bytes->bytes < least)
            return wrong(
                m_window,
                tr("“%1” is no window from 4 KiB to 1 GB; write it like 256KiB.").arg(m_window->text()));
        base.windowBytes = bytes->bytes;
    }
    if (!text(m_bytes).empty()) {
        const auto bytes = quantity::parseByteCount(text(m_bytes));
        if (!bytes || bytes->bytes == 0)
            return wrong(m_bytes, tr("“%1” is no amount; write it like 1GB.").arg(m_bytes->text()));
        base.maxBytes = bytes->bytes;
    }
    if (!text(m_warmup).empty()) {
        const auto time = quantity::parseDuration(text(m_warmup));
        if (!time || time->count() < 0 || time->count() >= base.seconds)
            return wrong(
                m_warmup,
                tr("“%1” is no warm-up shorter than the run; write it like 2 s.").arg(m_warmup->text()));
        base.warmup = time->count();
    }
    if (m_segment->value() > 0 && m_segment->value() < benchmark::minSegment)
        return wrong(
            m_segment,
            tr("A segment has from %1 to %2 bytes.").arg(benchmark::minSegment).arg(benchmark::maxSegment));
    base.segmentBytes = m_segment->value();
    base.dscp = m_dscp->value();
    base.ipVersion = m_ipVersion->currentData().toInt();
    base.bind = typed(m_bind).toStdString();
    base.congestion = base.protocol == Protocol::tcp ? typed(m_congestion).toStdString() : std::string();
    constexpr std::size_t longestName = 15; // TCP_CA_NAME_MAX less its end
    if (base.congestion.size() > longestName)
        return wrong(
            m_congestion,
            tr("“%1” is no congestion control; choose one of the list.").arg(m_congestion->currentText()));
    return base;
}

int AdvancedPanel::departures() const {
    int out = protocol() == Protocol::tcp ? 0 : 1;
    for (const QLineEdit* edit : {m_pace, m_window, m_bytes, m_warmup})
        if (!edit->text().trimmed().isEmpty()) ++out;
    for (const QSpinBox* box : {m_segment, m_dscp})
        if (box->value() > 0) ++out;
    for (const QComboBox* box : {m_congestion, m_bind})
        if (!typed(box).isEmpty()) ++out;
    return m_ipVersion->currentIndex() > 0 ? out + 1 : out;
}

void AdvancedPanel::reset() {
    show(RunConfig{});
    m_preset->setCurrentIndex(-1);
    m_preset->clearEditText();
}

void AdvancedPanel::show(const RunConfig& c) {
    m_filling = true;
    setProtocol(c.protocol);
    const auto bytes = [](std::uint64_t n) {
        return n == 0 ? QString() : QString::number(n) + QStringLiteral("B");
    };
    m_pace->setText(c.rate && c.protocol == Protocol::tcp ? QString::fromStdString(quantity::plain(*c.rate))
                                                          : QString());
    m_window->setText(bytes(c.windowBytes));
    m_bytes->setText(bytes(c.maxBytes));
    m_warmup->setText(c.warmup
                          ? QString::fromStdString(quantity::significant(*c.warmup, 3)) + QStringLiteral(" s")
                          : QString());
    m_segment->setValue(c.segmentBytes);
    m_dscp->setValue(c.dscp);
    m_ipVersion->setCurrentIndex(std::max(0, m_ipVersion->findData(c.ipVersion)));
    select(m_bind, c.bind);
    select(m_congestion, c.congestion);
    m_filling = false;
    Q_EMIT changed();
}

void AdvancedPanel::fillPresets(const QString& chosen) {
    m_preset->clear();
    for (const RunPreset& p : m_presets.load())
        m_preset->addItem(p.name);
    m_preset->setCurrentIndex(chosen.isEmpty() ? -1 : m_preset->findText(chosen));
    if (m_preset->currentIndex() < 0) m_preset->clearEditText();
}

void AdvancedPanel::takePreset() {
    const QString name = m_preset->currentText();
    for (const RunPreset& p : m_presets.load())
        if (p.name == name) {
            show(p.config);
            Q_EMIT said(tr("The next runs are ordered as “%1”.").arg(name), false);
        }
}

void AdvancedPanel::keepPreset() {
    const auto config = ordered(RunConfig{});
    if (!config) return;
    const QString name = m_preset->currentText().trimmed();
    if (const auto kept = m_presets.keep({name, *config}); !kept)
        return Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
    fillPresets(name);
    Q_EMIT said(tr("“%1” is kept.").arg(name), false);
}

void AdvancedPanel::dropPreset() {
    const QString name = m_preset->currentText().trimmed();
    if (m_preset->findText(name) < 0) return Q_EMIT said(tr("Choose the named order that is to go."), true);
    if (const auto gone = m_presets.drop(name); !gone)
        return Q_EMIT said(QString::fromStdString(gone.error().sentence()), true);
    fillPresets({});
    Q_EMIT said(tr("“%1” is deleted.").arg(name), false);
}

} // namespace metrodos::desktop
