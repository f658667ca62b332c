#include "desktop/measure/matrix_page.h"

#include "benchmark/matrix.h"
#include "desktop/measure/test_fields.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "probe/cross.h"

#include <QCheckBox>
#include <QPainter>
#include <QSpinBox>
#include <algorithm>
#include <cmath>

namespace metrodos::desktop {
namespace {

using nlohmann::json;
using quantity::BitRate;

constexpr double namesWidth = 150;
constexpr double headHeight = 34;

// Where the cell from row to column lies.
QRectF cellAt(const QRectF& field, int count, int row, int column) {
    const double width = std::min(170.0, (field.width() - namesWidth) / count);
    const double height = std::min(64.0, (field.height() - headHeight) / count);
    return {field.left() + namesWidth + column * width, field.top() + headHeight + row * height, width - 4,
            height - 4};
}

constexpr std::size_t maxShown = 16; // endpoints

} // namespace

MatrixPage::MatrixPage(RouteModel& model, AccessTo access)
    : TestPage(
          model, std::move(access), QStringLiteral("matrix"),
          tr("Press Space: every machine of the job that can be reached sends to every other, one pair "
             "after the other. Pairs that end at the same figure hang on the same element. Choose cells "
             "with the arrows and Enter, or by a click, to have those pairs run at once afterwards: what "
             "they share shows.")) {
    takeKeys();
    m_seconds = choice(QStringLiteral("matrix-seconds"), {{tr("2 s"), 2}, {tr("5 s"), 5}, {tr("10 s"), 10}});
    addField(tr("&length"), m_seconds);
    m_repeats = new QSpinBox;
    m_repeats->setRange(1, 20);
    m_repeats->setObjectName(QStringLiteral("matrix-repeats"));
    m_repeats->setToolTip(tr("Runs a pair; three or more give a range"));
    addField(tr("re&peat"), m_repeats);
    m_only = new QCheckBox(tr("chosen pairs on&ly"));
    m_only->setObjectName(QStringLiteral("matrix-only"));
    m_only->setToolTip(tr("Leave out the pairs that are not chosen"));
    addField({}, m_only);
}

quantity::Result<TestRunner::Work> MatrixPage::work() {
    probe::MatrixConfig config;
    for (const house::Endpoint& endpoint : model().job().house().endpoints) {
        auto reach = access()(endpoint.id);
        if (!reach) return tl::unexpected(reach.error());
        if (reach->address.empty()) continue;
        config.names.push_back(endpoint.label);
        config.ends.emplace_back(
            [reach = *reach](const std::stop_token& stop) { return openLink(reach, stop); });
    }
    if (config.ends.size() < 2)
        return quantity::problem("fewer than two machines have an address", "",
                                 "give the addresses of their agents in Walk");
    config.run.seconds = m_seconds->currentData().toDouble();
    config.run.streams = 4;
    config.repeats = m_repeats->value();
    for (const auto& [from, to] : m_chosen)
        if (std::max(from, to) < static_cast<int>(config.ends.size()))
            config.atOnce.push_back({static_cast<std::size_t>(from), static_cast<std::size_t>(to)});
    config.onlyThose = m_only->isChecked();
    if (config.onlyThose && config.atOnce.size() < 2)
        return quantity::problem("fewer than two pairs are chosen", "",
                                 "choose two with the arrows and Enter, or let every pair run");
    if (config.atOnce.size() == 1) config.atOnce.clear();
    return TestRunner::Work(
        [config = std::move(config)](const TestRunner::Progress& progress, const std::stop_token& stop) {
            const std::size_t pairs =
                config.onlyThose ? config.atOnce.size() : config.ends.size() * (config.ends.size() - 1);
            return probe::measureMatrix(
                       config,
                       [&](const benchmark::Matrix& m) {
                           progress(tr("%1 of %2 pairs").arg(m.cells.size()).arg(pairs),
                                    toJson(benchmark::reportOf(m, {})),
                                    static_cast<double>(m.cells.size()) / static_cast<double>(pairs));
                       },
                       stop)
                .map([](const benchmark::Matrix& m) { return toJson(benchmark::reportOf(m, {})); });
        });
}

quantity::Result<std::vector<std::string>> MatrixPage::take(const json& document) {
    auto report = benchmark::readMatrixReport(document);
    if (!report) return tl::unexpected(report.error());
    m_report = std::move(*report);
    std::vector<std::string> out = benchmark::sentences(m_report);
    out.push_back(
        tr("Arrows and Enter, or a click, choose pairs that the next run lets go at once.").toStdString());
    return out;
}

int MatrixPage::shownCount() const {
    return static_cast<int>(std::min(m_report.names.size(), maxShown));
}

void MatrixPage::paintReport(QPainter& p, const QRectF& field) {
    const int count = shownCount();
    if (count == 0) return;
    p.setFont(textFont(10, true));
    for (int i = 0; i < count; ++i) {
        const QString name = QString::fromStdString(m_report.names[static_cast<std::size_t>(i)]);
        const QRectF first = cellAt(field, count, i, 0);
        const QRectF head = cellAt(field, count, 0, i);
        p.setPen(theme().ink);
        p.drawText(QRectF(field.left() + 4, first.top(), namesWidth - 14, first.height()),
                   Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(tr("%1 sends").arg(name), Qt::ElideRight,
                                              static_cast<int>(namesWidth) - 14));
        p.drawText(QRectF(head.left(), field.top(), head.width(), headHeight - 6),
                   Qt::AlignHCenter | Qt::AlignBottom,
                   p.fontMetrics().elidedText(tr("to %1").arg(name), Qt::ElideRight,
                                              static_cast<int>(head.width())));
        p.fillRect(cellAt(field, count, i, i), QBrush(theme().line, Qt::BDiagPattern));
    }
    const auto ceiling = benchmark::commonCeiling(m_report.cells);
    for (const benchmark::MatrixCell& cell : m_report.cells) {
        const auto from = static_cast<int>(cell.pair.from);
        const auto to = static_cast<int>(cell.pair.to);
        if (from >= count || to >= count) continue;
        const QRectF box = cellAt(field, count, from, to);
        const BitRate rate = cell.summary.goodput;
        p.fillRect(box, theme().panel);
        // A bar on the logarithmic scale that all the window's axes have.
        const double share = std::clamp(logPosition(rate), 0.0, 1.0);
        p.fillRect(QRectF(box.left(), box.bottom() - 7, box.width() * share, 7), theme().cool);
        const bool shares = ceiling && std::find(ceiling->pairs.begin(), ceiling->pairs.end(), cell.pair) !=
                                           ceiling->pairs.end();
        if (shares)
            p.fillRect(QRectF(box.left(), box.bottom() - 7, box.width() * share, 7),
                       QBrush(theme().panel, Qt::Dense6Pattern));
        p.setPen(theme().ink);
        p.setFont(figureFont(box.height() > 44 ? 13 : 10.5, true));
        p.drawText(box.adjusted(6, 0, -4, -8), Qt::AlignLeft | Qt::AlignVCenter, shortRate(rate));
        // One run has a spread of its own, but says nothing of the next.
        if (cell.summary.runs > 2 && cell.summary.low && cell.summary.high) {
            p.setPen(theme().quiet);
            p.setFont(figureFont(8));
            p.drawText(box.adjusted(6, 0, -6, -8), Qt::AlignRight | Qt::AlignVCenter,
                       shortRate(*cell.summary.low) + QChar(0x2013) + shortRate(*cell.summary.high));
        }
        for (const benchmark::SharedCell& both : m_report.together)
            if (both.pair == cell.pair) {
                p.setPen(theme().quiet);
                p.setFont(figureFont(8));
                p.drawText(box.adjusted(6, 2, -6, 0), Qt::AlignRight | Qt::AlignTop,
                           tr("at once %1").arg(shortRate(both.atOnce)));
            }
        p.setPen(QPen(m_chosen.count({from, to}) > 0 ? theme().ink : theme().line,
                      m_chosen.count({from, to}) > 0 ? 2.5 : 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(box);
        if (hasDrawingFocus() && m_at == std::pair(from, to)) {
            p.setPen(QPen(theme().ink, 1, Qt::DotLine));
            p.drawRect(box.adjusted(-3, -3, 3, 3));
        }
    }
}

void MatrixPage::pressed(const QPointF& at, const QRectF& field) {
    if (!showsReport()) return;
    const int count = shownCount();
    for (int row = 0; row < count; ++row)
        for (int column = 0; column < count; ++column)
            if (row != column && cellAt(field, count, row, column).contains(at)) choose(row, column);
}

void MatrixPage::choose(int from, int to) {
    m_at = {from, to};
    if (!m_chosen.insert(m_at).second) m_chosen.erase(m_at);
    repaintReport();
}

bool MatrixPage::choosePairs(const std::vector<std::pair<house::Id, house::Id>>& pairs) {
    std::vector<house::Id> ends; // in the order of the test
    for (const house::Endpoint& endpoint : model().job().house().endpoints)
        if (const auto reach = access()(endpoint.id); reach && !reach->address.empty())
            ends.push_back(endpoint.id);
    std::set<std::pair<int, int>> chosen;
    for (const auto& [from, to] : pairs) {
        const auto a = std::find(ends.begin(), ends.end(), from);
        const auto b = std::find(ends.begin(), ends.end(), to);
        if (a == ends.end() || b == ends.end()) return false;
        chosen.insert({static_cast<int>(a - ends.begin()), static_cast<int>(b - ends.begin())});
    }
    m_chosen = std::move(chosen);
    m_only->setChecked(true);
    repaintReport();
    return true;
}

bool MatrixPage::keyPressed(int key) {
    const int count = shownCount();
    if (!showsReport() || count < 2) return false;
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
        choose(m_at.first, m_at.second);
        return true;
    }
    const int down = key == Qt::Key_Down ? 1 : key == Qt::Key_Up ? -1 : 0;
    const int right = key == Qt::Key_Right ? 1 : key == Qt::Key_Left ? -1 : 0;
    if (down == 0 && right == 0) return false;
    // Over the diagonal, where a machine would send to itself, and not over the edge.
    for (int step = 1; step <= 2; ++step) {
        const std::pair next(m_at.first + step * down, m_at.second + step * right);
        if (std::min(next.first, next.second) < 0 || std::max(next.first, next.second) >= count) break;
        if (next.first == next.second) continue;
        m_at = next;
        break;
    }
    repaintReport();
    return true;
}

} // namespace metrodos::desktop
