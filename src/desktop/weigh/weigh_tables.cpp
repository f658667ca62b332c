#include "desktop/weigh/weigh_tables.h"

#include "desktop/weigh/weigh_model.h"
#include "desktop/widgets/plain_table.h"
#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/rate_text.h"
#include "desktop/widgets/theme.h"
#include "desktop/widgets/tool_button.h"
#include "job/document.h"
#include "job/price_book_csv.h"
#include "job/text_file.h"
#include "weigh/against_quote.h"
#include "weigh/apply_plan.h"
#include "weigh/compare.h"
#include "weigh/way_choice.h"

#include <QComboBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <cmath>

namespace metrodos::desktop {
namespace {

QTableWidgetItem* cell(const QString& text, bool editable = false) {
    auto* item = plainCell(text, editable);
    item->setToolTip(plainTip(text)); // columns are narrow
    return item;
}

QTableWidgetItem* figure(const QString& text, bool editable = false) {
    auto* item = cell(text, editable);
    item->setFont(figureFont(10));
    item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    return item;
}

QVBoxLayout* column(QWidget* page) {
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(6, 6, 6, 2);
    layout->setSpacing(4);
    return layout;
}

} // namespace

PartsPage::PartsPage(WeighModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_of(new QComboBox)
    , m_table(plainTable(QStringLiteral("parts"), tr("Parts list"),
                         {tr("Part"), tr("Count"), tr("Unit"), tr("In stock"), tr("Each"), tr("To buy")},
                         {256, 52, 54, 70, 72}))
    , m_sum(plainLabel()) {
    alignFigures(m_table, {1, 3, 4, 5});
    auto* layout = column(this);
    m_of->setObjectName(QStringLiteral("partsOf"));
    m_of->setAccessibleName(tr("Parts of what"));
    m_of->addItem(tr("Parts of the whole plan"));
    layout->addWidget(m_of);
    connect(m_of, &QComboBox::currentIndexChanged, this, &PartsPage::fill);
    layout->addWidget(m_table, 1);
    auto* row = new QHBoxLayout;
    m_sum->setFont(textFont(11, true));
    row->addWidget(m_sum, 1);
    auto* save =
        tool(QStringLiteral("partsSave"), tr("Save as &CSV…"), tr("The parts list as a table for the shop"));
    connect(save, &QToolButton::clicked, this, &PartsPage::save);
    row->addWidget(save);
    layout->addLayout(row);
}

void PartsPage::fill() {
    m_table->setRowCount(0);
    const weigh::Plan* plan = m_model.plan();
    m_sum->setText(plan == nullptr ? tr("The parts list appears with a plan.") : QString());
    if (plan == nullptr && !isOfWay()) return;
    const weigh::Prices prices = m_model.prices();
    for (const weigh::PartLine& p : lines()) {
        const int r = m_table->rowCount();
        m_table->insertRow(r);
        m_table->setItem(r, 0, cell(QString::fromStdString(p.label)));
        m_table->setItem(r, 1, figure(countText(p.count)));
        m_table->setItem(r, 2, cell(QString::fromStdString(p.unit)));
        m_table->setItem(r, 3, figure(p.fromStock > 0 ? QString::number(p.fromStock) : QStringLiteral("–")));
        m_table->setItem(r, 4, figure(QString::fromStdString(weigh::amount(prices, p.unitPrice))));
        m_table->setItem(r, 5, figure(QString::fromStdString(weigh::amount(prices, p.total))));
    }
    m_sum->setWordWrap(true);
    if (isOfWay()) {
        weigh::Money sum;
        for (const weigh::PartLine& p : m_wayParts)
            sum = sum + p.total;
        m_sum->setText(tr("By itself %1, work included; what the van holds is not taken off.")
                           .arg(QString::fromStdString(weigh::amount(prices, sum))));
        return;
    }
    m_sum->setText(tr("Together %1; cable lengths with an allowance of %2.")
                       .arg(QString::fromStdString(weigh::amount(prices, plan->cost)),
                            percentText(m_model.job().catalog().planning.laying.allowance)));
}

bool PartsPage::isOfWay() const {
    return m_of->currentIndex() == 1;
}

std::vector<weigh::PartLine> PartsPage::lines() const {
    if (isOfWay()) return m_wayParts;
    const weigh::Plan* plan = m_model.plan();
    return plan == nullptr ? std::vector<weigh::PartLine>() : plan->parts;
}

void PartsPage::showWay(const weigh::SpotOptions& spot, const weigh::SpotWay& way) {
    m_wayParts = weigh::partsOf(way, m_model.prices());
    const QString text = tr("Parts of one way: %1 by %2")
                             .arg(QString::fromStdString(spot.label), QString::fromStdString(way.label));
    if (m_of->count() < 2)
        m_of->addItem(text);
    else
        m_of->setItemText(1, text);
    if (isOfWay() && isVisible()) fill();
}

void PartsPage::save() {
    if (lines().empty()) return;
    const QString file = QFileDialog::getSaveFileName(this, tr("Parts list"), QStringLiteral("parts.csv"),
                                                      tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    if (job::writeText(file.toStdString(), job::partsCsv(lines())))
        Q_EMIT said(tr("The parts list is in %1.").arg(file), false);
    else
        Q_EMIT said(tr("%1 cannot be written; choose a folder that you may write to.").arg(file), true);
}

ComparePage::ComparePage(WeighModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_quote(new QLineEdit)
    , m_quoteWords(plainLabel())
    , m_first(new QComboBox)
    , m_second(new QComboBox)
    , m_table(plainTable(QStringLiteral("differences"), tr("Where two plans differ"),
                         {tr("Spot"), tr("First"), tr("at least"), tr("Second"), tr("at least")},
                         {186, 126, 118, 126}))
    , m_words(plainLabel()) {
    alignFigures(m_table, {2, 4});
    m_first->setObjectName(QStringLiteral("firstPlan"));
    m_second->setObjectName(QStringLiteral("secondPlan"));
    m_first->setAccessibleName(tr("First plan"));
    m_second->setAccessibleName(tr("Second plan"));
    m_words->setObjectName(QStringLiteral("compareWords"));
    m_words->setFont(textFont(11, true));
    m_words->setWordWrap(true);
    auto* layout = column(this);
    auto* plans = new QGridLayout;
    plans->setColumnStretch(1, 1);
    plans->addWidget(plainLabel(tr("Plan")), 0, 0);
    plans->addWidget(m_first, 0, 1);
    plans->addWidget(plainLabel(tr("against")), 1, 0);
    plans->addWidget(m_second, 1, 1);
    layout->addLayout(plans);
    layout->addWidget(m_words);
    layout->addWidget(m_table, 1);
    m_quote->setObjectName(QStringLiteral("quote"));
    m_quote->setPlaceholderText(tr("1850 for 5 runs from Example Cabling"));
    m_quote->setClearButtonEnabled(true);
    m_quoteWords->setObjectName(QStringLiteral("quoteWords"));
    m_quoteWords->setWordWrap(true);
    auto* quote = new QHBoxLayout;
    quote->addWidget(labelFor(m_quote, tr("A contractor's &quote")));
    quote->addWidget(m_quote, 1);
    layout->addLayout(quote);
    layout->addWidget(m_quoteWords);
    connect(m_quote, &QLineEdit::returnPressed, this, &ComparePage::noteQuote);
    for (QComboBox* box : {m_first, m_second})
        connect(box, &QComboBox::currentIndexChanged, this, &ComparePage::showComparison);
}

QString ComparePage::words() const {
    return m_words->text();
}

void ComparePage::fill() {
    const weigh::Prices prices = m_model.prices();
    for (QComboBox* box : {m_first, m_second}) {
        const QSignalBlocker quiet(box);
        const QString before = box->currentData().toString();
        box->clear();
        for (const weigh::Plan& p : m_model.weighed().plans)
            box->addItem(tr("%1, %2").arg(QString::fromStdString(p.label),
                                          QString::fromStdString(weigh::amount(prices, p.cost))),
                         QString::fromStdString(p.id));
        box->setCurrentIndex(std::max(0, box->findData(before)));
    }
    // At first the plan that is looked at against the next one.
    if (const weigh::Plan* here = m_model.plan();
        here != nullptr && m_first->currentIndex() == m_second->currentIndex()) {
        const QSignalBlocker first(m_first);
        const QSignalBlocker second(m_second);
        m_first->setCurrentIndex(std::max(0, m_first->findData(QString::fromStdString(here->id))));
        m_second->setCurrentIndex(m_first->currentIndex() == 0 && m_second->count() > 1 ? 1 : 0);
    }
    showComparison();
    const auto& kept = m_model.job().house().weighing.quote;
    if (!m_quote->hasFocus() || !m_quote->isModified())
        m_quote->setText(kept ? QString::fromStdString(weigh::quoteText(*kept)) : QString());
}

void ComparePage::noteQuote() {
    const auto quote = weigh::parseQuote(m_quote->text().toStdString());
    if (!quote) {
        Q_EMIT said(QString::fromStdString(quote.error().sentence()), true);
        return;
    }
    m_quote->setModified(false);
    m_model.setQuote(*quote);
}

// Against the first of the two plans.
void ComparePage::showQuote() {
    const auto& quote = m_model.job().house().weighing.quote;
    const weigh::Plan* plan = m_model.plan(m_first->currentData().toString().toStdString());
    if (!quote || plan == nullptr || m_model.options() == nullptr) {
        m_quoteWords->clear();
        return;
    }
    const int years = m_model.job().house().weighing.years;
    m_quoteWords->setText(QString::fromStdString(
        weigh::againstQuote(*m_model.options(), m_model.prices(), *plan, *quote, years).words));
}

void ComparePage::showComparison() {
    showQuote();
    m_table->setRowCount(0);
    m_words->clear();
    const weigh::Plan* a = m_model.plan(m_first->currentData().toString().toStdString());
    const weigh::Plan* b = m_model.plan(m_second->currentData().toString().toStdString());
    if (a == nullptr || b == nullptr || m_model.options() == nullptr) return;
    const weigh::Comparison c = weigh::compare(*m_model.options(), m_model.prices(), *a, *b);
    m_words->setText(QString::fromStdString(c.buys));
    for (const weigh::Difference& d : c.spots) {
        const int r = m_table->rowCount();
        m_table->insertRow(r);
        const bool sameWay = d.idA == d.idB; // then their adapters differ
        const auto way = [&](const std::string& id, const std::string& adapter, const std::string& whole,
                             bool carried) {
            const catalog::WayClass* cls = m_model.job().catalog().planning.way(id);
            const QString brief = cls == nullptr ? tr("no way found")
                                  : sameWay && !adapter.empty()
                                      ? QString::fromStdString(m_model.prices().label(adapter))
                                      : QString::fromStdString(cls->brief);
            auto* item = cell(cls == nullptr || carried ? brief : tr("%1, falls short").arg(brief));
            item->setToolTip(plainTip(QString::fromStdString(whole)));
            return item;
        };
        m_table->setItem(r, 0, cell(QString::fromStdString(d.label)));
        m_table->setItem(r, 1, way(d.idA, d.classA, d.wayA, d.carriedA));
        m_table->setItem(r, 2, figure(rateText(d.p10A)));
        m_table->setItem(r, 3, way(d.idB, d.classB, d.wayB, d.carriedB));
        m_table->setItem(r, 4, figure(rateText(d.p10B)));
    }
}

PricesPage::PricesPage(WeighModel& model, QWidget* parent)
    : QWidget(parent)
    , m_model(model)
    , m_currency(new QLineEdit)
    , m_table(plainTable(QStringLiteral("prices"), tr("Price book"),
                         {tr("Item"), tr("Own product"), tr("Price"), tr("Unit"), tr("In stock")},
                         {232, 120, 74, 56})) {
    alignFigures(m_table, {2, 4});
    m_currency->setObjectName(QStringLiteral("currency"));
    m_currency->setMaximumWidth(70);
    m_currency->setMaxLength(8);
    auto* layout = column(this);
    auto* row = new QHBoxLayout;
    auto* name = plainLabel(tr("C&urrency"));
    name->setBuddy(m_currency);
    row->addWidget(name);
    row->addWidget(m_currency);
    row->addStretch();
    auto* load =
        tool(QStringLiteral("pricesImport"), tr("&Import CSV…"), tr("Takes the price book from a table"));
    auto* out =
        tool(QStringLiteral("pricesExport"), tr("&Export CSV…"), tr("Writes the price book as a table"));
    row->addWidget(load);
    row->addWidget(out);
    layout->addLayout(row);
    layout->addWidget(m_table, 1);
    connect(load, &QToolButton::clicked, this, &PricesPage::import);
    connect(out, &QToolButton::clicked, this, &PricesPage::save);
    connect(m_table, &QTableWidget::cellChanged, this, &PricesPage::note);
    connect(m_currency, &QLineEdit::editingFinished, this, [this] {
        weigh::PriceBook book = m_model.book();
        const std::string sign = m_currency->text().trimmed().toStdString();
        if (sign.empty() || sign == book.currency) return;
        book.currency = sign;
        if (const auto kept = m_model.setBook(book); !kept)
            Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
    });
    fill();
}

void PricesPage::fill() {
    m_filling = true;
    const weigh::PriceBook& book = m_model.book();
    m_currency->setText(QString::fromStdString(book.currency));
    const int row = m_table->currentRow();
    m_table->setRowCount(0);
    for (const weigh::PricedItem& item : weigh::pricedItems(m_model.job().catalog())) {
        const weigh::PriceLine* own = book.line(item.item);
        const int r = m_table->rowCount();
        m_table->insertRow(r);
        auto* name = cell(QString::fromStdString(item.label));
        name->setData(Qt::UserRole, QString::fromStdString(item.item));
        m_table->setItem(r, 0, name);
        m_table->setItem(r, 1, cell(own == nullptr ? QString() : QString::fromStdString(own->product), true));
        auto* price = figure(
            QLocale().toString((own != nullptr && own->price ? *own->price : item.guide).inUnits(), 'f', 2),
            true);
        if (own == nullptr || !own->price) price->setToolTip(tr("guide price"));
        price->setForeground(own != nullptr && own->price ? theme().ink : theme().quiet);
        m_table->setItem(r, 2, price);
        m_table->setItem(r, 3, cell(QString::fromStdString(item.unit)));
        m_table->setItem(r, 4,
                         figure(own == nullptr ? QStringLiteral("0") : QString::number(own->stock), true));
    }
    m_table->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_table->setCurrentCell(std::clamp(row, 0, std::max(0, m_table->rowCount() - 1)), 1);
    m_filling = false;
}

// What was typed; what cannot be read stays as it was before.
void PricesPage::note(int row, int column) {
    if (m_filling) return;
    weigh::PriceBook book = m_model.book();
    weigh::PriceLine& line = book.lineFor(m_table->item(row, 0)->data(Qt::UserRole).toString().toStdString());
    const QString text = m_table->item(row, column)->text().trimmed();
    bool ok = true;
    if (column == 1) {
        line.product = text.left(200).toStdString();
    } else if (column == 2) {
        double value = QLocale().toDouble(text, &ok);
        if (!ok) value = QLocale::c().toDouble(text, &ok);
        ok = (ok && value >= 0 && value <= 1e7) || text.isEmpty();
        line.price = text.isEmpty() ? std::nullopt : std::optional(weigh::Money::units(value));
    } else {
        line.stock = text.isEmpty() ? 0 : text.toInt(&ok);
        ok = ok && line.stock >= 0 && line.stock <= 100'000;
    }
    if (!ok) {
        Q_EMIT said(column == 2 ? tr("“%1” is no price; write it like 12.50.").arg(text)
                                : tr("“%1” is no number of pieces.").arg(text),
                    true);
        fill();
        return;
    }
    if (const auto kept = m_model.setBook(book); !kept)
        Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
    fill();
}

void PricesPage::import() {
    const QString name =
        QFileDialog::getOpenFileName(this, tr("Price book"), QString(), tr("Tables (*.csv)"));
    if (name.isEmpty()) return;
    constexpr std::size_t most = 1024 * 1024; // bytes
    const auto text = job::readTextFile(name.toStdString(), most);
    const auto book =
        text ? job::priceBookFrom(text->text, m_model.job().catalog()) : tl::unexpected(text.error());
    const auto kept = book ? m_model.setBook(*book) : tl::unexpected(book.error());
    if (!kept)
        Q_EMIT said(QString::fromStdString(kept.error().sentence()), true);
    else
        Q_EMIT said(tr("The price book was read from %1.")
                        .arg(name + (text->note.empty()
                                         ? QString()
                                         : QStringLiteral(" (%1)").arg(QString::fromStdString(text->note)))),
                    false);
    fill();
}

void PricesPage::save() {
    const QString file = QFileDialog::getSaveFileName(this, tr("Price book"), QStringLiteral("prices.csv"),
                                                      tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    if (job::writeText(file.toStdString(), job::toCsv(m_model.book(), m_model.job().catalog())))
        Q_EMIT said(tr("The price book is in %1.").arg(file), false);
    else
        Q_EMIT said(tr("%1 cannot be written; choose a folder that you may write to.").arg(file), true);
}

} // namespace metrodos::desktop
