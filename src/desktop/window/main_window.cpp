#include "desktop/window/main_window.h"

#include "desktop/fit/fit_pages.h"
#include "desktop/fit/fit_view.h"
#include "desktop/handover/handover_view.h"
#include "desktop/log/log_pages.h"
#include "desktop/log/log_view.h"
#include "desktop/measure/measure_pages.h"
#include "desktop/measure/measure_view.h"
#include "desktop/route/element_sheet.h"
#include "desktop/route/route_strip.h"
#include "desktop/trace/trace_view.h"
#include "desktop/walk/walk_view.h"
#include "desktop/weigh/weigh_model.h"
#include "desktop/weigh/weigh_view.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_hints.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/window/keys_panel.h"
#include "desktop/window/start_page.h"
#include "house/findings.h"
#include "weigh/compare.h"

#include <QAbstractSpinBox>
#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QTextEdit>
#include <QTimer>
#include <QToolBar>
#include <QToolButton>
#include <QVBoxLayout>

namespace metrodos::desktop {
namespace {

constexpr int lowStrip = 178;

// Measure and Trace are about the route in the strip, the others about the whole house.
bool isWholeHouse(Stage stage) {
    return stage != Stage::measure && stage != Stage::trace;
}

// In Weigh the answer is the plan, in Fit the next step, in Log what was found; elsewhere the verdict.
bool hasOwnAnswer(Stage stage) {
    return stage == Stage::weigh || stage == Stage::fit || stage == Stage::log || stage == Stage::handover;
}

} // namespace

MainWindow::MainWindow(catalog::Catalog catalog)
    : m_job(std::move(catalog)) {
    setObjectName(QStringLiteral("window"));
    m_keys = new KeysPanel(this);
    buildTools();
    m_rail = new Rail;
    m_strip = new RouteStrip(m_model);
    m_measure = new MeasureView(m_model);
    m_trace = new TraceView(m_model);
    m_sheet = new ElementSheet(m_model);
    m_stages = new QStackedWidget;
    m_walk = new WalkView(m_model);
    m_stages->addWidget(m_walk);
    m_weighing = new WeighModel(m_model, pricesFile(), this);
    m_weigh = new WeighView(*m_weighing);
    m_stages->addWidget(m_weigh);
    m_fit = new FitView(m_job);
    m_fitPages =
        new FitPages(m_job, m_fit, [this](const house::Device& d) { return m_machines.adapterPage(d); });
    m_stages->addWidget(m_fitPages);
    m_pages = new MeasurePages(
        m_model, m_measure, [this](const house::Id& id) { return m_machines.to(id); },
        [this](const house::Id& id, const std::string& servedBy) { return m_machines.invite(id, servedBy); },
        m_machines.known());
    m_stages->addWidget(m_pages);
    m_stages->addWidget(m_trace);
    m_log = new LogView(m_job);
    m_logPages = new LogPages(m_job, m_log, [this](const house::Id& id) { return m_machines.to(id); });
    m_stages->addWidget(m_logPages);
    m_handover = new HandoverView(m_job);
    m_stages->addWidget(m_handover);
    m_status = plainLabel();
    m_status->setObjectName(QStringLiteral("status"));
    m_status->setFont(textFont(12, true));
    m_status->setWordWrap(true);
    m_status->setMargin(8);
    m_status->setMinimumHeight(40);

    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(m_stages, 1);
    m_start = new StartPage;
    middle->addWidget(m_start, 1);
    middle->addWidget(m_sheet);
    auto* column = new QVBoxLayout;
    column->setSpacing(0);
    column->addWidget(m_strip);
    column->addLayout(middle, 1);
    m_rates = plainLabel();
    m_rates->setObjectName(QStringLiteral("otherUnits"));
    m_rates->setFont(figureFont(9));
    m_rates->setMargin(8);
    m_rates->hide();
    auto* answers = new QHBoxLayout;
    answers->setSpacing(0);
    answers->addWidget(m_status, 1);
    answers->addWidget(m_rates);
    column->addLayout(answers);
    connect(new RateHints(this), &RateHints::changed, this, [this](const QString& hint) {
        m_rates->setText(hint);
        m_rates->setVisible(!hint.isEmpty());
        QTimer::singleShot(0, this, &MainWindow::fitStatus); // once it has its width
    });
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    row->addWidget(m_rail);
    row->addLayout(column, 1);
    auto* centre = new QWidget;
    centre->setLayout(row);
    setCentralWidget(centre);
    setMinimumSize(1000, 660);
    resize(1280, 800);
    restoreGeometry(QSettings().value(QStringLiteral("geometry")).toByteArray());

    connect(m_rail, &Rail::stageChosen, this, [this](Stage stage) {
        // Whoever goes from one answer to the other wants the other.
        const auto before = static_cast<Stage>(m_stages->currentIndex());
        if (m_job.hasJob() && (hasOwnAnswer(before) || hasOwnAnswer(stage))) m_saysVerdict = true;
        m_stages->setCurrentIndex(static_cast<int>(stage));
        m_stripOpen = false;
        m_sheet->hide();
        if (m_keys->isVisible()) m_keys->showKeys(stage);
        sizeStrip(stage);
        showVerdict();
        showPlan();
        if (stage == Stage::fit) m_fitPages->takeFocus();
        if (stage == Stage::log) m_logPages->takeFocus();
        if (stage == Stage::handover) m_handover->takeFocus();
    });
    m_stages->setCurrentIndex(static_cast<int>(m_rail->stage()));
    m_sheet->hide();
    sizeStrip(m_rail->stage());
    connect(m_walk, &WalkView::said, this, &MainWindow::say);
    connect(m_weigh, &WeighView::said, this, &MainWindow::say);
    connect(m_fitPages, &FitPages::said, this, &MainWindow::say);
    connect(m_fit, &FitView::shown, this, &MainWindow::showPlan);
    connect(m_fit, &FitView::runAsked, this, &MainWindow::prepareStep);
    connect(m_fit, &FitView::routeShown, this, [this](const house::Id& route) {
        if (m_rail->stage() == Stage::fit && !m_controller.isRunning()) m_model.setRoute(route);
    });
    connect(m_fit, &FitView::trialAsked, this, &MainWindow::leadTrial);
    connect(m_logPages, &LogPages::said, this, &MainWindow::say);
    connect(m_logPages, &LogPages::shown, this, &MainWindow::showPlan);
    connect(m_logPages, &LogPages::jobAsked, this,
            [this](const QString& file) { openJob(file.toStdString()); });
    connect(m_log, &LogView::trialAsked, this, &MainWindow::leadTrial);
    connect(m_handover, &HandoverView::said, this, &MainWindow::say);
    connect(m_handover, &HandoverView::shown, this, &MainWindow::showPlan);
    connect(m_weighing, &WeighModel::changed, this, &MainWindow::showPlan);
    connect(m_weighing, &WeighModel::opened, this, [this] { m_saysVerdict = true; });
    connect(&m_model, &RouteModel::wayChanged, this, &MainWindow::showJob);
    connect(m_strip, &RouteStrip::removeAsked, m_sheet, &ElementSheet::removeSelected);
    connect(m_strip, &RouteStrip::moveAsked, m_sheet, &ElementSheet::moveSelected);
    connect(m_strip, &RouteStrip::insertAsked, this, [this] {
        m_sheet->show();
        m_sheet->offerInsert();
    });
    connect(m_measure, &MeasureView::runAsked, this, &MainWindow::toggleRun);
    connect(m_measure, &MeasureView::said, this, &MainWindow::say);
    connect(m_pages, &MeasurePages::toggleAsked, this, &MainWindow::toggleRun);
    connect(m_pages, &MeasurePages::said, this, &MainWindow::say);
    connect(m_trace, &TraceView::nextTestAsked, this, &MainWindow::takeNextTest);
    connect(m_trace, &TraceView::runsAsked, this, &MainWindow::showRuns);
    connect(m_trace, &TraceView::refused, this, [this](const QString& sentence) { say(sentence, true); });
    connect(&m_model, &RouteModel::changed, this, &MainWindow::showJob);
    connect(&m_model, &RouteModel::diagnosed, this, &MainWindow::showVerdict);
    connect(&m_job, &JobModel::problem, this, [this](const QString& text) { say(text, true); });
    connect(m_strip, &RouteStrip::elementPressed, m_sheet, &QWidget::show);
    connect(m_strip, &RouteStrip::openAsked, this, &MainWindow::turnStrip);
    connect(m_start, &StartPage::measureAsked, this, &MainWindow::beginMeasuring);
    connect(m_start, &StartPage::surveyAsked, this, &MainWindow::beginSurvey);
    connect(m_start, &StartPage::demoAsked, this, [this] { openDemo(demoFolder()); });
    connect(m_start, &StartPage::jobAsked, this,
            [this](const QString& file) { openJob(file.toStdString()); });
    connect(m_start, &StartPage::chooseAsked, this, &MainWindow::chooseJob);
    connect(m_start, &StartPage::said, this, &MainWindow::say);
    connect(&m_reader, &MachineReader::done, this, [this](const MachineReadings& readings) {
        m_readings = readings;
        m_asSurveyed = true;
        noteReadings();
        say(tr("Both machines answer. Space starts a run."), false);
    });
    connect(&m_reader, &MachineReader::failed, this, [this](const QString& text) { say(text, true); });
    connectRuns();
    qApp->installEventFilter(this);
    showJob();
    showStart(true);
}

// What was typed into a field is taken over while everything is there; later its views are gone.
MainWindow::~MainWindow() {
    if (QWidget* focus = focusWidget()) focus->clearFocus();
}

// The house, its plans and the figures of a run need the height more than the route does: where the work is
// about the whole house the strip is a line that opens on demand. The sheet of an element comes when one is
// chosen.
void MainWindow::sizeStrip(Stage stage) {
    const bool isSlim = isWholeHouse(stage) && !m_stripOpen;
    m_strip->setSlim(isSlim);
    const bool isTall = stage == Stage::trace || isSlim; // as tall as it wants
    m_strip->setMaximumHeight(isTall ? QWIDGETSIZE_MAX : lowStrip);
    m_strip->setMinimumHeight(isTall ? 0 : lowStrip);
}

void MainWindow::turnStrip() {
    m_stripOpen = !m_stripOpen;
    if (!m_stripOpen) m_sheet->hide();
    sizeStrip(m_rail->stage());
}

// The keys go first; then out of a field, then the sheet, then the opened strip goes, then the test that was
// set up.
void MainWindow::stepBack() {
    auto* focus = QApplication::focusWidget();
    const bool inField = qobject_cast<QLineEdit*>(focus) != nullptr ||
                         qobject_cast<QTextEdit*>(focus) != nullptr ||
                         qobject_cast<QAbstractSpinBox*>(focus) != nullptr;
    if (m_keys->isVisible()) {
        m_keys->hide();
    } else if (m_start->isVisible()) {
        if (!m_start->back() && m_job.hasJob()) showStart(false);
    } else if (inField) {
        if (focus == m_name) m_name->setText(QString::fromStdString(m_job.house().name));
        m_strip->setFocus();
    } else if (m_sheet->isVisible()) {
        m_sheet->hide();
        m_strip->setFocus();
    } else if (m_rail->stage() == Stage::walk && m_walk->closeWays()) {
        return;
    } else if (!m_strip->isSlim() && isWholeHouse(m_rail->stage())) {
        turnStrip();
    } else {
        m_measure->dropPrepared();
    }
}

QAction* MainWindow::action(const QString& name, const QString& iconName, const QString& text,
                            const QKeySequence& key) {
    auto* a = new QAction(text, this);
    showIcon(a, iconName);
    a->setObjectName(name);
    a->setShortcut(key);
    a->setToolTip(text + QStringLiteral(" (") + key.toString(QKeySequence::NativeText) + QLatin1Char(')'));
    addAction(a);
    return a;
}

void MainWindow::buildTools() {
    auto* bar = addToolBar(tr("Job"));
    bar->setObjectName(QStringLiteral("bar"));
    bar->setMovable(false);
    bar->setContextMenuPolicy(Qt::PreventContextMenu);
    bar->setIconSize({18, 18});
    m_name = new QLineEdit;
    m_name->setObjectName(QStringLiteral("house-name"));
    m_name->setAccessibleName(tr("Name of the house"));
    m_name->setToolTip(tr("Name of the house (Ctrl+Shift+N)"));
    m_name->setFont(textFont(12, true));
    m_name->setFrame(false);
    m_name->setMaxLength(200);
    m_name->setFocusPolicy(Qt::ClickFocus);
    m_nameAction = bar->addWidget(m_name);
    connect(m_name, &QLineEdit::editingFinished, this, &MainWindow::nameHouse);
    connect(m_name, &QLineEdit::returnPressed, this, [this] { m_strip->setFocus(); });
    m_nameHint = plainLabel(tr("Ctrl+Shift+N names it"));
    m_nameHint->setObjectName(QStringLiteral("quiet"));
    m_nameHint->setMargin(6);
    m_nameHintAction = bar->addWidget(m_nameHint);
    m_routes = new QComboBox;
    m_routes->setObjectName(QStringLiteral("routes"));
    m_routes->setMinimumWidth(190);
    m_routes->setMaximumWidth(340);
    m_routes->setAccessibleName(tr("Route"));
    m_routesAction = bar->addWidget(m_routes);
    connect(m_routes, &QComboBox::activated, this,
            [this] { m_model.setRoute(m_routes->currentData().toString().toStdString()); });
    auto* space = new QWidget;
    space->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Preferred);
    bar->addWidget(space);
    m_undo = action(QStringLiteral("undo"), QStringLiteral("undo-2"), tr("Undo"), QKeySequence::Undo);
    m_redo = action(QStringLiteral("redo"), QStringLiteral("redo-2"), tr("Redo"),
                    QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z));
    auto* open =
        action(QStringLiteral("open"), QStringLiteral("folder-open"), tr("Open a job"), QKeySequence::Open);
    auto* fresh = action(QStringLiteral("new"), QStringLiteral("plus"), tr("New job"), QKeySequence::New);
    m_scheme = action(QStringLiteral("scheme"), QStringLiteral("moon"), tr("Dark scheme"),
                      QKeySequence(Qt::CTRL | Qt::Key_D));
    m_scheme->setCheckable(true);
    m_scheme->setChecked(theme().dark);
    if (theme().dark) showIcon(m_scheme, QStringLiteral("sun")); // what it leads to
    for (QAction* a : {m_undo, m_redo, fresh, open, m_scheme})
        bar->addAction(a);
    connect(m_undo, &QAction::triggered, &m_job, &JobModel::undo);
    connect(m_redo, &QAction::triggered, &m_job, &JobModel::redo);
    connect(open, &QAction::triggered, this, &MainWindow::chooseJob);
    connect(fresh, &QAction::triggered, this, &MainWindow::newJob);
    connect(m_scheme, &QAction::toggled, this, &MainWindow::switchScheme);
    auto* name = new QAction(tr("Name the house"), this);
    name->setShortcut(QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N));
    addAction(name);
    connect(name, &QAction::triggered, this, [this] {
        if (!m_job.hasJob()) return;
        m_name->setFocus();
        m_name->selectAll();
    });
    auto* next = new QAction(tr("Take the next test"), this);
    next->setShortcut(QKeySequence(Qt::Key_N));
    addAction(next);
    connect(next, &QAction::triggered, this, &MainWindow::takeNextTest);
    auto* back = new QAction(tr("Back"), this);
    back->setShortcut(QKeySequence(Qt::Key_Escape));
    addAction(back);
    connect(back, &QAction::triggered, this, &MainWindow::stepBack);
    auto* keys = new QAction(tr("Keys"), this);
    keys->setShortcut(QKeySequence(Qt::Key_F1));
    addAction(keys);
    connect(keys, &QAction::triggered, this, [this] {
        m_keys->setVisible(!m_keys->isVisible());
        if (m_keys->isVisible()) m_keys->showKeys(m_rail->stage());
    });
    auto* strip = new QAction(tr("Open or close the route strip"), this);
    strip->setShortcut(QKeySequence(Qt::CTRL | Qt::Key_R));
    addAction(strip);
    connect(strip, &QAction::triggered, this, [this] {
        if (isWholeHouse(m_rail->stage())) turnStrip();
    });
    auto* decline = new QAction(tr("Have another test suggested"), this);
    decline->setShortcut(QKeySequence(Qt::SHIFT | Qt::Key_N));
    addAction(decline);
    connect(decline, &QAction::triggered, this, &MainWindow::declineNextTest);
    auto* others = new QAction(tr("Other people use the network"), this);
    others->setShortcut(QKeySequence(Qt::Key_O));
    addAction(others);
    connect(others, &QAction::triggered, this, [this] {
        if (m_rail->stage() == Stage::measure) m_measure->turnOthers();
    });
    for (const auto& [key, stage] :
         {std::pair(Qt::CTRL | Qt::Key_1, Stage::walk), std::pair(Qt::CTRL | Qt::Key_2, Stage::weigh),
          std::pair(Qt::CTRL | Qt::Key_3, Stage::fit), std::pair(Qt::CTRL | Qt::Key_4, Stage::measure),
          std::pair(Qt::CTRL | Qt::Key_5, Stage::trace), std::pair(Qt::CTRL | Qt::Key_6, Stage::log),
          std::pair(Qt::CTRL | Qt::Key_7, Stage::handover)}) {
        auto* go = new QAction(this);
        go->setShortcut(QKeySequence(key));
        addAction(go);
        connect(go, &QAction::triggered, this, [this, stage = stage] { setStage(stage); });
    }
}

void MainWindow::say(const QString& sentence, bool isProblem) {
    m_saysVerdict = false;
    m_sentence = isProblem ? tr("Not done: %1").arg(sentence) : sentence;
    m_status->setToolTip(plainTip(m_sentence));
    m_status->setAccessibleName(m_sentence);
    fitStatus();
}

// Three lines at most; the rest stands in its tip.
void MainWindow::fitStatus() {
    const int width = m_status->width() - 2 * m_status->margin();
    const bool isLaidOut = m_status->isVisible() && width > 200;
    m_status->setText(isLaidOut ? fittedText(m_sentence, m_status->font(), width, 3) : m_sentence);
}

void MainWindow::showJob() {
    setWindowTitle(m_job.hasJob() ? tr("%1 – Metrodos").arg(QString::fromStdString(m_job.house().name))
                                  : tr("Metrodos"));
    if (!m_name->hasFocus()) m_name->setText(QString::fromStdString(m_job.house().name));
    m_nameAction->setVisible(m_job.hasJob());
    m_name->setFixedWidth(std::clamp(m_name->fontMetrics().horizontalAdvance(m_name->text()) + 26, 120, 330));
    m_name->setCursorPosition(0);
    m_nameHintAction->setVisible(isDraft() && !m_job.undoLabel().isEmpty());
    const QSignalBlocker quiet(m_routes);
    m_routes->clear();
    for (const house::Route& route : m_job.house().routes)
        m_routes->addItem(QString::fromStdString(route.label), QString::fromStdString(route.id));
    if (m_model.route() != nullptr)
        m_routes->setCurrentIndex(m_routes->findData(QString::fromStdString(m_model.route()->id)));
    m_routesAction->setVisible(m_routes->count() > 0);
    const auto label = [](const QString& verb, const QString& what) {
        return what.isEmpty() ? verb : verb + QStringLiteral(": ") + what;
    };
    m_undo->setEnabled(!m_job.undoLabel().isEmpty());
    m_undo->setToolTip(plainTip(label(tr("Undo (Ctrl+Z)"), m_job.undoLabel())));
    m_redo->setEnabled(!m_job.redoLabel().isEmpty());
    m_redo->setToolTip(plainTip(label(tr("Redo (Ctrl+Shift+Z)"), m_job.redoLabel())));
    const auto open = house::findings(m_job.house()).size();
    m_rail->setNote(Stage::walk,
                    open == 0 ? tr("%1 rooms").arg(m_job.house().rooms.size()) : tr("%1 open").arg(open));
    const auto runs = m_model.runs().size();
    m_rail->setNote(Stage::measure, runs == 0   ? tr("no runs")
                                    : runs == 1 ? tr("1 run")
                                                : tr("%1 runs").arg(runs));
    m_saysVerdict = true;
    showVerdict();
    showPlan();
}

// The verdict comes a moment after what it is about; what was said meanwhile stays.
void MainWindow::showVerdict() {
    const auto& d = m_model.diagnosis();
    m_rail->setNote(Stage::trace, d && !d->suspects.empty()
                                      ? percentText(d->suspects.front().probability) + tr(" sure")
                                      : QString());
    if (m_controller.isRunning() || !m_saysVerdict || hasOwnAnswer(m_rail->stage())) return;
    if (d && m_model.showsWay()) {
        say(tr("%1: %2").arg(capitalised(m_model.shownLabel().toStdString()),
                             QString::fromStdString(d->sentence)),
            false);
    } else if (d)
        say(QString::fromStdString(d->sentence), false);
    else if (m_model.routeProblem())
        say(QString::fromStdString(m_model.routeProblem()->sentence()), true);
    else
        say(m_model.isDiagnosing() ? tr("Working out what limits the route …")
                                   : tr("There is no route yet: Walk has them under Routes."),
            false);
    m_saysVerdict = true;
}

// The other stages show the verdict.
void MainWindow::showPlan() {
    const weigh::Plan* plan = m_weighing->plan();
    const auto& spots = m_job.house().spots;
    m_rail->setNote(Stage::weigh,
                    plan != nullptr ? QString::fromStdString(weigh::amount(m_weighing->prices(), plan->cost))
                                    : counted(static_cast<int>(spots.size()), tr("%1 need"), tr("%1 needs")));
    m_rail->setNote(Stage::fit, m_fit->progress());
    m_rail->setNote(Stage::log, m_log->progress());
    m_rail->setNote(Stage::handover, m_handover->progress());
    // What was said about something else stays until the next change, as with the verdict.
    const Stage stage = m_rail->stage();
    if ((stage == Stage::fit || stage == Stage::log || stage == Stage::handover) &&
        !m_controller.isRunning() && m_saysVerdict) {
        say(stage == Stage::fit   ? m_fit->sentence()
            : stage == Stage::log ? m_logPages->sentence()
                                  : m_handover->sentence(),
            false);
        m_saysVerdict = true;
    }
    if (m_rail->stage() != Stage::weigh || m_controller.isRunning() || !m_saysVerdict) return;
    if (plan != nullptr)
        say(tr("%1: %2. Next: %3")
                .arg(capitalised(plan->label),
                     QString::fromStdString(weigh::amount(m_weighing->prices(), plan->cost)),
                     plan->carriesAll ? tr("Ctrl+Enter fits it; P pins a way that the client wants.")
                     : plan->wiringCarriesAll
                         ? tr("no wiring can bring more than the service does; only a faster one would.")
                         : tr("see which spot falls short, and give it another need or way.")),
            false);
    else if (!m_weighing->problemText().isEmpty())
        say(m_weighing->problemText(), true);
    else
        say(tr("Weighing the ways to every spot …"), false);
    m_saysVerdict = true;
}

bool MainWindow::isSettled() const {
    const Stage stage = m_rail->stage();
    return !m_model.isDiagnosing() && !(stage == Stage::weigh && m_weighing->isWeighing()) &&
           !(stage == Stage::log && !m_logPages->isSettled()) &&
           !(stage == Stage::handover && !m_handover->isSettled());
}

void MainWindow::setStage(Stage stage) {
    if (m_start->isVisible() && m_job.hasJob()) showStart(false);
    m_rail->setStage(stage);
}

void MainWindow::setPage(Page page) {
    const int tab = tabOf(page);
    switch (stageOf(page)) {
    case Stage::walk:
        return m_walk->setTab(tab);
    case Stage::weigh:
        return m_weigh->setTab(tab);
    case Stage::measure:
        return m_pages->setCurrentIndex(tab);
    case Stage::fit:
        return m_fitPages->setCurrentIndex(tab);
    case Stage::log:
        return m_logPages->setCurrentIndex(tab);
    case Stage::trace:
    case Stage::handover:
        return; // have one page
    }
}

// The run that proves a step: what to set up stands in Measure, Space starts it, and Fit shows what came of
// it.
void MainWindow::prepareStep(const fit::Step& step) {
    m_model.setRoute(step.route);
    setStage(Stage::measure);
    setPage(Page::runs);
    trace::NextTest test;
    test.id = "fit-" + step.id;
    test.does = step.what;
    test.shape.arrangement.setup = step.setup;
    m_measure->prepare(test);
    say(tr("%1. Then press Space; Ctrl+3 leads back.").arg(QString::fromStdString(step.what)), false);
}

// Measure leads through the places; Fit shows what each has shown, and keeps one.
void MainWindow::leadTrial(const house::Id& trial, const house::Id& route) {
    m_model.setRoute(route);
    setStage(Stage::measure);
    setPage(Page::runs);
    m_measure->lead(trial);
    say(tr("Do what stands above, then press Space; Ctrl+3 leads back."), false);
}

void MainWindow::inviteGuest(const house::Id& endpoint) {
    setStage(Stage::measure);
    m_pages->invite(endpoint, "here");
}

void MainWindow::showWays(const QString& from, const QString& to) {
    m_walk->showWays(from, to);
}

void MainWindow::switchScheme(bool dark) {
    applyTheme(*qApp, dark ? darkTheme() : lightTheme());
    QSettings().setValue(QStringLiteral("dark"), dark);
    showIcon(m_scheme, dark ? QStringLiteral("sun") : QStringLiteral("moon"));
    renewIcons(this);
    m_measure->restyle();
    m_pages->restyle();
    m_trace->restyle();
    m_weigh->restyle();
}

namespace {

// The line of an editable choice has the choice itself for its focus.
bool takesBlanks(QWidget* focus) {
    const auto* choice = qobject_cast<QComboBox*>(focus);
    return qobject_cast<QLineEdit*>(focus) != nullptr || (choice != nullptr && choice->isEditable());
}

} // namespace

// Space starts and stops a run wherever the keyboard is, but in a field where a blank can be typed.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto* key = dynamic_cast<QKeyEvent*>(event);
        const auto* widget = qobject_cast<QWidget*>(watched);
        const bool ours =
            widget != nullptr && widget->window() == this && QApplication::activePopupWidget() == nullptr;
        if (ours && key != nullptr && key->key() == Qt::Key_Space && key->modifiers() == Qt::NoModifier &&
            !key->isAutoRepeat() && !takesBlanks(QApplication::focusWidget()) &&
            !isWholeHouse(m_rail->stage()) && !m_start->isVisible()) {
            toggleRun();
            return true;
        }
        // What was typed into the sheet is taken over; the keys are the window's again.
        if (ours && key != nullptr && (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) &&
            qobject_cast<const QLineEdit*>(widget) != nullptr && m_sheet->isAncestorOf(widget))
            QMetaObject::invokeMethod(
                m_strip, [this] { m_strip->setFocus(); }, Qt::QueuedConnection);
    }
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    m_sheet->setWide(event->size().width() >= 1200);
    QMainWindow::resizeEvent(event);
    fitStatus();
}

// Asks once about a test that is running. Runs are kept every half second and watches every minute; a matrix,
// a search or a copy is kept when it ends only.
void MainWindow::closeEvent(QCloseEvent* event) {
    if (m_pages->isRunning() && !m_closing) {
        event->ignore();
        if (findChild<QMessageBox*>(QStringLiteral("closing")) != nullptr) return;
        auto* box = new QMessageBox(
            QMessageBox::NoIcon, tr("A test is running"),
            tr("Closing the window ends the running test. Runs and watches keep what they "
               "have found so far, but for the last minute at most; other tests may be lost."),
            QMessageBox::NoButton, this);
        box->setAttribute(Qt::WA_DeleteOnClose);
        box->setTextFormat(Qt::PlainText);
        box->setObjectName(QStringLiteral("closing"));
        QPushButton* end = box->addButton(tr("&End it and close"), QMessageBox::AcceptRole);
        end->setObjectName(QStringLiteral("end-and-close"));
        box->setDefaultButton(box->addButton(tr("&Keep it running"), QMessageBox::RejectRole));
        connect(end, &QPushButton::clicked, this, [this] {
            m_closing = true;
            m_pages->stop();
            close();
        });
        box->open();
        return;
    }
    QSettings().setValue(QStringLiteral("geometry"), saveGeometry());
    m_controller.stop();
    dropDraft();
    QMainWindow::closeEvent(event);
}

} // namespace metrodos::desktop
