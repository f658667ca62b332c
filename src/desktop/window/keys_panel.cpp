#include "desktop/window/keys_panel.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"
#include "job/entry_grammar.h"

#include <QGridLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <utility>
#include <vector>

namespace metrodos::desktop {
namespace {

using Keys = std::vector<std::pair<QString, QString>>;

Keys ofStage(Stage stage) {
    switch (stage) {
    case Stage::walk:
        return {
            {KeysPanel::tr("Enter"), KeysPanel::tr("take the line that was typed; Tab completes it")},
            {KeysPanel::tr("↓ and ↑"), KeysPanel::tr("in the line: what fits here; the lines before")},
            {KeysPanel::tr("S"), KeysPanel::tr("in the section: a route from the machine to the service")},
            {KeysPanel::tr("Ctrl+R"), KeysPanel::tr("open or close the route strip")},
            {KeysPanel::tr(", and ."),
             KeysPanel::tr("in the section: from thing to thing; Enter chooses it")},
            {KeysPanel::tr("+, −, 0"), KeysPanel::tr("in the section: nearer, farther, all of it")},
            {KeysPanel::tr("arrows"), KeysPanel::tr("in the section: move it")}};
    case Stage::weigh:
        return {{KeysPanel::tr("Ctrl+Enter"), KeysPanel::tr("fit the plan into the house")},
                {KeysPanel::tr("P"), KeysPanel::tr("pin the chosen way, or take the pin away")},
                {KeysPanel::tr("C"), KeysPanel::tr("each class of adapter by itself; P then pins the class")},
                {KeysPanel::tr("Ctrl+E"), KeysPanel::tr("save the plan: report or JSON")},
                {KeysPanel::tr("Ctrl+R"), KeysPanel::tr("open or close the route strip")}};
    case Stage::fit:
        return {
            {KeysPanel::tr("↑ and ↓"), KeysPanel::tr("from step to step")},
            {KeysPanel::tr("D"), KeysPanel::tr("done, and on to the next")},
            {KeysPanel::tr("F, S"), KeysPanel::tr("failed, skipped: the reason is asked for")},
            {KeysPanel::tr("U"), KeysPanel::tr("not done after all")},
            {KeysPanel::tr("E"), KeysPanel::tr("a note on the step")},
            {KeysPanel::tr("M"), KeysPanel::tr("its run, set up in Measure")},
            {KeysPanel::tr("T, B"), KeysPanel::tr("try where it can be plugged in; keep the best place")},
            {KeysPanel::tr("P, J"), KeysPanel::tr("pairing: the two minutes begin; both show a link")},
            {KeysPanel::tr("K"), KeysPanel::tr("where the network's key is kept")},
            {KeysPanel::tr("A"), KeysPanel::tr("a photo of the step")},
            {KeysPanel::tr("R"), KeysPanel::tr("in Adapters: read the adapter's own page")},
            {KeysPanel::tr("A, Shift+A"), KeysPanel::tr("in Addresses: an address, a network more")},
            {KeysPanel::tr("L, P, X"), KeysPanel::tr("in Addresses: look around, test this port, export")},
            {KeysPanel::tr("T, F, C, S"), KeysPanel::tr("in Cupboard: how the run was told")},
            {KeysPanel::tr("X, Ctrl+P"), KeysPanel::tr("in Labels: save the sheet, print it")},
            {KeysPanel::tr("Delete"), KeysPanel::tr("take out one that is no longer needed")}};
    case Stage::measure:
        return {{KeysPanel::tr("Space"), KeysPanel::tr("start or stop a run or a test")},
                {KeysPanel::tr("N"), KeysPanel::tr("set up the suggested test")},
                {KeysPanel::tr("M"), KeysPanel::tr("what else a run can be ordered to be, and named orders")},
                {KeysPanel::tr("Enter"), KeysPanel::tr("in the list: everything that was taken of the run")},
                {KeysPanel::tr(", . C"), KeysPanel::tr("in One run: older, newer, another one beside it")},
                {KeysPanel::tr("X, Delete"), KeysPanel::tr("in the list: the run does not count; remove it")},
                {KeysPanel::tr("S, /"), KeysPanel::tr("in the list: another order; which runs")},
                {KeysPanel::tr("O, A, G"),
                 KeysPanel::tr("whether other people use the network; what runs; what was changed: of the "
                               "next run, in the list of the chosen ones")},
                {KeysPanel::tr("arrows, Enter"), KeysPanel::tr("in Every pair: choose pairs to run at once")},
                {KeysPanel::tr("Enter, R"), KeysPanel::tr("in At once: choose a way; run the chosen ones")},
                {KeysPanel::tr("R, T"), KeysPanel::tr("in Facts: ask the machine; take over into the house")},
                {KeysPanel::tr("Enter, Delete, K"),
                 KeysPanel::tr("in Machines: take its address; delete its key; a key of its own")}};
    case Stage::trace:
        return {{KeysPanel::tr("N"), KeysPanel::tr("take the suggested test")},
                {KeysPanel::tr("Shift+N"), KeysPanel::tr("it cannot be made: have another suggested")},
                {KeysPanel::tr("Enter"), KeysPanel::tr("on a piece of evidence: the runs that it stands on")},
                {KeysPanel::tr("Space"), KeysPanel::tr("start or stop a run")}};
    case Stage::log:
        return {{KeysPanel::tr("/"), KeysPanel::tr("which runs, in words")},
                {KeysPanel::tr("V, P"), KeysPanel::tr("against which others; comparisons that are offered")},
                {KeysPanel::tr("X, Shift+X"),
                 KeysPanel::tr("the run does not count, or does again; all listed do not")},
                {KeysPanel::tr("R"), KeysPanel::tr("the runs of that day once more")},
                {KeysPanel::tr("A, G, C, B"),
                 KeysPanel::tr("in Hours: add a schedule, give it to the agent, collect, take back")},
                {KeysPanel::tr("E, I"), KeysPanel::tr("in Hours and Own houses: save to a file, take over")},
                {KeysPanel::tr("F, R"), KeysPanel::tr("in Library: another folder, read it again")},
                {KeysPanel::tr("U"), KeysPanel::tr("in Own houses: predictions use them")},
                {KeysPanel::tr("← and →"), KeysPanel::tr("in the strip of time: from run to run")}};
    case Stage::handover:
        return {{KeysPanel::tr("Space"), KeysPanel::tr("leave the chapter out, or take it in")},
                {KeysPanel::tr("Alt+↑ and Alt+↓"), KeysPanel::tr("move the chapter")},
                {KeysPanel::tr("E"), KeysPanel::tr("a note to the chapter")},
                {KeysPanel::tr("R"), KeysPanel::tr("the next of record, technician's page and offer")},
                {KeysPanel::tr("P"), KeysPanel::tr("without names and addresses, or with them")},
                {KeysPanel::tr("L"), KeysPanel::tr("the firm's logo")},
                {KeysPanel::tr("X, Ctrl+P"), KeysPanel::tr("save, by the ending of the name; print")}};
    }
    return {};
}

Keys everywhere() {
    return {
        {KeysPanel::tr("Ctrl+1 … Ctrl+7"), KeysPanel::tr("Walk, Weigh, Fit, Measure, Trace, Log, Hand over")},
        {KeysPanel::tr("← and →"), KeysPanel::tr("in the strip: choose an element and open its sheet")},
        {KeysPanel::tr("Insert, Delete"), KeysPanel::tr("in the strip: put a box in, take one out")},
        {KeysPanel::tr("Alt+← and Alt+→"), KeysPanel::tr("in the strip: move the box")},
        {KeysPanel::tr("Esc"), KeysPanel::tr("out of a field, a panel, the sheet")},
        {KeysPanel::tr("Ctrl+Z, Ctrl+Shift+Z"), KeysPanel::tr("undo, redo")},
        {KeysPanel::tr("Ctrl+N, Ctrl+O"), KeysPanel::tr("begin another job, open one")},
        {KeysPanel::tr("Ctrl+Shift+N"), KeysPanel::tr("name the house")},
        {KeysPanel::tr("Ctrl+D"), KeysPanel::tr("dark or light")},
        {KeysPanel::tr("F1"), KeysPanel::tr("these keys")}};
}

} // namespace

KeysPanel::KeysPanel(QWidget* parent)
    : QDialog(parent, Qt::Tool)
    , m_body(nullptr) {
    setObjectName(QStringLiteral("keys"));
    setWindowTitle(tr("Keys"));
    new QVBoxLayout(this);
}

void KeysPanel::showKeys(Stage stage) {
    delete m_body;
    m_body = new QWidget;
    auto* rows = new QGridLayout(m_body);
    rows->setHorizontalSpacing(18);
    const auto add = [&](const QString& title, const Keys& keys) {
        auto* head = plainLabel(title);
        head->setFont(textFont(11, true));
        rows->addWidget(head, rows->rowCount(), 0, 1, 2);
        for (const auto& [key, what] : keys) {
            const int row = rows->rowCount();
            auto* left = plainLabel(key);
            left->setFont(textFont(10, true));
            rows->addWidget(left, row, 0);
            rows->addWidget(plainLabel(what), row, 1);
        }
    };
    static const char* const names[] = {QT_TR_NOOP("Walk"),    QT_TR_NOOP("Weigh"), QT_TR_NOOP("Fit"),
                                        QT_TR_NOOP("Measure"), QT_TR_NOOP("Trace"), QT_TR_NOOP("Log")};
    add(tr(names[static_cast<std::size_t>(stage)]), ofStage(stage));
    add(tr("Everywhere"), everywhere());
    if (stage == Stage::walk) {
        Keys lines;
        for (const job::LineForm& form : job::lineForms())
            lines.emplace_back(QString::fromStdString(form.line), QString::fromStdString(form.meaning));
        add(tr("Lines of the survey; what is in brackets may be left out"), lines);
    }
    layout()->addWidget(m_body);
    adjustSize();
}

} // namespace metrodos::desktop
