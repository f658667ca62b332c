// The tables of Weigh: parts to buy, two plans side by side, what to do when fitting, and the price book.
#pragma once

#include "weigh/plan.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QTableWidget;

namespace metrodos::desktop {

class WeighModel;

/// Counts, lengths with allowance, what is in the van, and the sum; as CSV on the clipboard or in a file.
class PartsPage : public QWidget {
    Q_OBJECT

  public:
    explicit PartsPage(WeighModel& model, QWidget* parent = nullptr);
    void fill();
    /// The way that is looked at, whose own parts can be shown in place of the plan's.
    void showWay(const weigh::SpotOptions& spot, const weigh::SpotWay& way);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void save();
    [[nodiscard]] bool isOfWay() const;
    [[nodiscard]] std::vector<weigh::PartLine> lines() const;
    WeighModel& m_model;
    QComboBox* m_of; ///< the plan, or the one way
    std::vector<weigh::PartLine> m_wayParts;
    QTableWidget* m_table;
    QLabel* m_sum;
};

class ComparePage : public QWidget {
    Q_OBJECT

  public:
    explicit ComparePage(WeighModel& model, QWidget* parent = nullptr);
    void fill();
    [[nodiscard]] QString words() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void showComparison();
    void showQuote();
    void noteQuote();
    WeighModel& m_model;
    QLineEdit* m_quote; ///< of somebody else
    QLabel* m_quoteWords;
    QComboBox* m_first;
    QComboBox* m_second;
    QTableWidget* m_table;
    QLabel* m_words;
};

/// Own products, prices and stock; edited in place, kept at once.
class PricesPage : public QWidget {
    Q_OBJECT

  public:
    explicit PricesPage(WeighModel& model, QWidget* parent = nullptr);
    void fill();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void note(int row, int column);
    void import();
    void save();
    WeighModel& m_model;
    QLineEdit* m_currency;
    QTableWidget* m_table;
    bool m_filling = false;
};

} // namespace metrodos::desktop
