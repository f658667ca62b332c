#include "desktop/trace_view.h"

#include "desktop/rate_text.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

/// One suspect: its probability as a figure and a bar, its evidence below. A click chooses the element.
class SuspectRow : public QWidget {
  public:
    SuspectRow(const trace::Suspect& suspect, bool first, std::function<void()> chosen)
        : m_share(suspect.probability)
        , m_first(first)
        , m_chosen(std::move(chosen)) {
        auto* layout = new QVBoxLayout(this);
        layout->setContentsMargins(92, 6, 6, 8);
        layout->setSpacing(2);
        auto* name = new QLabel(QString::fromStdString(suspect.label));
        name->setFont(textFont(first ? 13 : 11, true));
        name->setWordWrap(true);
        layout->addWidget(name);
        if (suspect.ifReplaced) {
            auto* after = new QLabel(TraceView::tr("carries %1; without it the route would carry %2")
                                         .arg(bothText(suspect.ceiling), bothText(*suspect.ifReplaced)));
            after->setWordWrap(true);
            layout->addWidget(after);
        }
        QStringList because;
        for (const std::string& line : suspect.because)
            because << QStringLiteral("· ") + localised(line);
        auto* reasons = new QLabel(because.join(QLatin1Char('\n')));
        reasons->setObjectName(QStringLiteral("quiet"));
        reasons->setWordWrap(true);
        layout->addWidget(reasons);
        setCursor(Qt::PointingHandCursor);
        setAccessibleName(name->text() + QLatin1Char(' ') + percentText(m_share));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().line, 1));
        p.drawLine(0, height() - 1, width(), height() - 1);
        const QColor colour = m_first ? theme().warm : theme().quiet;
        p.setPen(colour);
        p.setFont(figureFont(m_first ? 17 : 12, true));
        p.drawText(QRectF(0, 4, 84, 28), Qt::AlignRight | Qt::AlignVCenter, percentText(m_share));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(colour, 1));
        p.drawRect(QRectF(14, 35, 70, 6));
        p.fillRect(QRectF(14, 35, 70 * m_share, 6), colour);
    }
    void mousePressEvent(QMouseEvent*) override { m_chosen(); }

  private:
    double m_share;
    bool m_first;
    std::function<void()> m_chosen;
};

void clear(QLayout* layout) {
    while (QLayoutItem* item = layout->takeAt(0)) {
        if (item->widget() != nullptr) item->widget()->deleteLater();
        delete item;
    }
}

QLabel* heading(const QString& text) {
    auto* label = new QLabel(text);
    label->setFont(textFont(10, true));
    return label;
}

QLabel* paragraph(const QString& text) {
    auto* label = new QLabel(text);
    label->setWordWrap(true);
    return label;
}

} // namespace

TraceView::TraceView(JobModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 8, 6);
    m_verdict = new QLabel;
    m_verdict->setObjectName(QStringLiteral("verdict"));
    m_verdict->setFont(textFont(17, true));
    m_verdict->setWordWrap(true);
    m_figures = new QLabel;
    m_figures->setFont(textFont(12));
    m_figures->setWordWrap(true);
    layout->addWidget(m_verdict);
    layout->addWidget(m_figures);
    auto* columns = new QHBoxLayout;
    auto* list = new QWidget;
    m_suspects = new QVBoxLayout(list);
    m_suspects->setContentsMargins(0, 4, 8, 0);
    m_suspects->setSpacing(0);
    auto* scroll = new QScrollArea;
    scroll->setWidget(list);
    scroll->setWidgetResizable(true);
    auto* side = new QWidget;
    m_side = new QVBoxLayout(side);
    m_side->setContentsMargins(10, 4, 0, 0);
    auto* sideScroll = new QScrollArea;
    sideScroll->setWidget(side);
    sideScroll->setWidgetResizable(true);
    columns->addWidget(scroll, 3);
    columns->addWidget(sideScroll, 2);
    layout->addLayout(columns, 1);
    connect(&m_model, &JobModel::changed, this, &TraceView::fill);
    fill();
}

void TraceView::fill() {
    clear(m_suspects);
    clear(m_side);
    const auto& d = m_model.diagnosis();
    if (!d || d->suspects.empty()) {
        m_verdict->setText(tr("Nothing to trace yet"));
        m_figures->setText(tr("Open a job and choose a route whose ends are joined."));
        return;
    }
    const trace::Suspect& first = d->suspects.front();
    const bool measured = d->measuredForward || d->measuredBackward;
    m_verdict->setText(measured ? tr("The limit is: %1").arg(QString::fromStdString(first.label))
                                : tr("Expected limit: %1").arg(QString::fromStdString(first.label)));
    QStringList figures;
    if (d->measuredForward) figures << tr("measured forward %1").arg(bothText(*d->measuredForward));
    if (d->measuredBackward) figures << tr("backward %1").arg(bothText(*d->measuredBackward));
    if (!measured)
        figures << tr("not measured yet; expected %1").arg(bothText(m_model.prediction()->forward.p50));
    bool simulated = false;
    for (const benchmark::Run& run : m_model.runs())
        simulated = simulated || run.simulated;
    if (simulated) figures << tr("simulated");
    m_figures->setText(figures.join(QStringLiteral(", ")));

    bool isFirst = true;
    for (const trace::Suspect& suspect : d->suspects) {
        m_suspects->addWidget(
            new SuspectRow(suspect, isFirst, [this, id = suspect.element] { m_model.select(id); }));
        isFirst = false;
    }
    m_suspects->addStretch();

    if (first.ifReplaced && !d->nextElement.empty()) {
        m_side->addWidget(heading(tr("If it were replaced")));
        m_side->addWidget(
            paragraph(tr("%1 would be next, at %2.")
                          .arg(QString::fromStdString(d->nextElement), bothText(*first.ifReplaced))));
        const house::Route* route = m_model.route();
        if (route->needForward) {
            const auto now = d->measuredForward.value_or(m_model.prediction()->forward.p50);
            m_side->addWidget(paragraph(
                now >= *route->needForward
                    ? tr("The need of %1 is met: nothing to replace.").arg(rateText(*route->needForward))
                : *first.ifReplaced >= *route->needForward
                    ? tr("That would meet the need of %1; now it is not met.")
                          .arg(rateText(*route->needForward))
                    : tr("The need of %1 would still not be met.").arg(rateText(*route->needForward))));
        }
        m_side->addSpacing(8);
    }
    m_side->addWidget(heading(tr("What to test next")));
    if (d->nextTests.empty())
        m_side->addWidget(paragraph(tr("Nothing: no test would tell more about the limit of this route.")));
    if (!d->nextTests.empty()) {
        bool top = true;
        for (const trace::NextTest& test : d->nextTests) {
            m_side->addWidget(
                paragraph(tr("%1  (%2 min)").arg(QString::fromStdString(test.does)).arg(test.minutes)));
            if (top) {
                auto* take = new QPushButton(tr("Take it  (N)"));
                take->setObjectName(QStringLiteral("takeTest"));
                connect(take, &QPushButton::clicked, this, &TraceView::nextTestAsked);
                m_side->addWidget(take, 0, Qt::AlignLeft);
            }
            top = false;
        }
        m_side->addSpacing(8);
    }
    if (!d->warnings.empty()) {
        m_side->addWidget(heading(tr("What the runs show besides")));
        for (const std::string& warning : d->warnings)
            m_side->addWidget(paragraph(QStringLiteral("· ") + localised(warning)));
    }
    m_side->addStretch();
}

} // namespace metrodos::desktop
