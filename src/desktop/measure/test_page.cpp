#include "desktop/measure/test_page.h"

#include "benchmark/watch_report.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/time_text.h"
#include "desktop/widgets/tool_button.h"
#include "probe/run_stamp.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace metrodos::desktop {

using nlohmann::json;

namespace {
constexpr qint64 keepEveryMs = 55'000; // a watch tells what it has every minute
} // namespace

class TestPage::Canvas : public QWidget {
  public:
    explicit Canvas(TestPage& page)
        : m_page(page) {
        setMinimumHeight(140);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        if (m_page.m_showsReport) {
            m_page.paintReport(p, rect());
            return;
        }
        p.setPen(theme().ink);
        p.setFont(textFont(13));
        p.drawText(rect().adjusted(60, 24, -60, 0), Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap,
                   m_page.m_purpose);
    }
    void mousePressEvent(QMouseEvent* event) override { m_page.pressed(event->position(), rect()); }
    void keyPressEvent(QKeyEvent* event) override {
        if (!m_page.keyPressed(event->key())) QWidget::keyPressEvent(event);
    }
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    TestPage& m_page;
};

TestPage::TestPage(RouteModel& model, AccessTo access, const QString& kind, const QString& purpose)
    : m_model(model)
    , m_access(std::move(access))
    , m_kind(kind)
    , m_purpose(purpose) {
    setObjectName(kind);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 8, 8, 6);
    layout->setSpacing(6);
    auto* top = new QHBoxLayout;
    m_run = new QPushButton;
    m_run->setObjectName(kind + QStringLiteral("-run"));
    m_run->setFocusPolicy(Qt::TabFocus);
    m_run->setMinimumWidth(150);
    top->addWidget(m_run);
    m_fields = new QWidget;
    m_row = new QHBoxLayout(m_fields);
    m_row->setContentsMargins(8, 0, 0, 0);
    top->addWidget(m_fields);
    m_progress = plainLabel();
    m_progress->setObjectName(kind + QStringLiteral("-progress"));
    m_progress->setFont(figureFont(12));
    top->addWidget(m_progress);
    top->addStretch();
    m_kept = new QComboBox;
    m_kept->setObjectName(kind + QStringLiteral("-kept"));
    m_kept->setToolTip(tr("What was found before"));
    m_kept->setMinimumWidth(150);
    top->addWidget(m_kept);
    auto* remove =
        tool(kind + QStringLiteral("-remove"), tr("Remove"), tr("Remove this report from the job"));
    showIcon(remove, QStringLiteral("trash-2"));
    top->addWidget(remove);
    layout->addLayout(top);
    m_headline = plainLabel();
    m_headline->setObjectName(kind + QStringLiteral("-headline"));
    m_headline->setWordWrap(true);
    m_headline->setFont(textFont(17, true));
    m_headline->setContentsMargins(4, 10, 4, 2);
    layout->addWidget(m_headline);
    m_more = plainLabel();
    m_more->setWordWrap(true);
    m_more->setFont(textFont(11));
    m_more->setContentsMargins(4, 0, 4, 8);
    layout->addWidget(m_more);
    m_canvas = new Canvas(*this);
    layout->addWidget(m_canvas, 1);

    connect(m_run, &QPushButton::clicked, this, &TestPage::toggleAsked);
    connect(m_kept, &QComboBox::activated, this, [this](int index) {
        showReport(
            json::parse(m_kept->itemData(index, Qt::UserRole + 1).toString().toStdString(), nullptr, false));
    });
    connect(remove, &QToolButton::clicked, this, [this] {
        if (m_kept->currentIndex() >= 0) m_model.job().removeReport(m_kept->currentData().toLongLong());
    });
    connect(&m_model, &RouteModel::changed, this, &TestPage::fillKept);
    connect(&m_runner, &TestRunner::progressed, this,
            [this](const QString& words, const json& soFar, double done) {
                m_progress->setText(words + timeLeft(done));
                if (soFar.is_null()) return;
                showReport(soFar);
                if (keepsOnTheWay() && (!m_sinceKept.isValid() || m_sinceKept.elapsed() >= keepEveryMs))
                    keep(soFar);
            });
    connect(&m_runner, &TestRunner::finished, this, [this](const json& report) {
        setRunning(false, {});
        keep(report);
        m_model.job().reloadRuns(); // fills the list, newest shown
    });
    connect(&m_runner, &TestRunner::failed, this, [this](const QString& sentence) {
        setRunning(false, {});
        fillKept();
        Q_EMIT said(sentence, true);
    });
    setRunning(false, {});
    fillKept();
}

TestPage::~TestPage() = default;

void TestPage::addField(const QString& label, QWidget* field) {
    if (!label.isEmpty()) {
        auto* name = plainLabel(label);
        name->setBuddy(field);
        m_row->addWidget(name);
    }
    m_row->addWidget(field);
}

QString TestPage::timeLeft(double done) const {
    const auto left = secondsLeft(m_begun, done);
    return left ? tr(", %1 left").arg(QString::fromStdString(benchmark::spanWords(*left))) : QString();
}

void TestPage::setRunning(bool running, const QString& words) {
    if (running) m_begun.start();
    showIcon(m_run, running ? QStringLiteral("square") : QStringLiteral("play"));
    m_run->setText(running ? tr("Stop  (Space)") : tr("Run  (Space)"));
    m_fields->setVisible(!running);
    m_kept->setEnabled(!running);
    m_progress->setText(words);
    m_progress->setVisible(running);
}

void TestPage::toggle() {
    if (m_runner.isRunning()) {
        m_runner.stop();
        return;
    }
    auto wanted = work();
    if (!wanted) {
        Q_EMIT said(QString::fromStdString(wanted.error().sentence()), true);
        return;
    }
    m_about = m_model.route() == nullptr ? std::string() : m_model.route()->label;
    m_route = m_model.route() == nullptr ? house::Id() : m_model.route()->id;
    m_keptAs.reset();
    m_sinceKept.invalidate();
    setRunning(true, tr("connecting to the machines …"));
    Q_EMIT said(tr("A test is running. Space stops it."), false);
    m_runner.start(std::move(*wanted));
}

// The first time as a report of its own, then in its place.
void TestPage::keep(json document) {
    if (!document.contains("started_at")) document["started_at"] = probe::utcNow();
    document["about"] = m_about;
    if (!m_route.empty()) document["route"] = m_route;
    if (const auto report = job::reportOf(document)) m_keptAs = m_model.job().keepReport(*report, m_keptAs);
    m_sinceKept.restart();
}

void TestPage::showReport(const json& document) {
    QStringList lines;
    m_showsReport = false;
    if (document.is_object()) {
        const auto said = take(document);
        m_showsReport = said.has_value();
        if (said)
            for (const std::string& line : *said)
                lines << QString::fromStdString(line);
        else
            lines << QString::fromStdString(said.error().sentence());
        if (said && document.value("simulated", false)) lines << tr("All of it is simulated.");
    }
    m_headline->setText(lines.isEmpty() ? QString() : lines.takeFirst());
    m_headline->setVisible(!m_headline->text().isEmpty());
    m_more->setText(lines.join(QLatin1Char(' ')));
    m_more->setVisible(!lines.isEmpty());
    m_canvas->update();
}

void TestPage::takeKeys() {
    m_canvas->setFocusPolicy(Qt::StrongFocus);
    m_canvas->setObjectName(m_kind + QStringLiteral("-drawing"));
    m_canvas->setAccessibleName(tr("What the test has found"));
}

bool TestPage::hasDrawingFocus() const {
    return m_canvas->hasFocus();
}

void TestPage::repaintReport() {
    m_canvas->update();
}

void TestPage::fillKept() {
    if (m_runner.isRunning()) return;
    m_kept->clear();
    const auto& reports = m_model.job().reports();
    for (auto it = reports.rbegin(); it != reports.rend(); ++it) {
        if (QString::fromStdString(it->kind) != m_kind) continue;
        const json body = json::parse(it->body, nullptr, false);
        const std::string at =
            body.is_object() && body.contains("started_at") && body["started_at"].is_string()
                ? body["started_at"].get<std::string>()
                : std::string();
        m_kept->addItem(at.empty() ? tr("report %1").arg(it->number) : momentText(at),
                        QVariant::fromValue<qlonglong>(it->number));
        m_kept->setItemData(m_kept->count() - 1, QString::fromStdString(it->body), Qt::UserRole + 1);
    }
    m_kept->setVisible(m_kept->count() > 0);
    if (auto* remove = findChild<QToolButton*>(m_kind + QStringLiteral("-remove")))
        remove->setVisible(m_kept->count() > 0);
    showReport(
        m_kept->count() == 0
            ? json()
            : json::parse(m_kept->itemData(0, Qt::UserRole + 1).toString().toStdString(), nullptr, false));
}

QString TestPage::text() const {
    return m_headline->text() + QLatin1Char(' ') + m_more->text();
}

} // namespace metrodos::desktop
