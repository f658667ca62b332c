// The adapters of the house: how each is set up, what its modem shows of the others, and what that stands
// for.
#pragma once

#include "desktop/model/field_form.h"
#include "desktop/model/job_model.h"
#include "desktop/model/latest_worker.h"

#include <QWidget>
#include <functional>
#include <map>

class QGridLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace metrodos::desktop {

class AdaptersPage : public QWidget {
    Q_OBJECT

  public:
    /// The address of an adapter's own page; empty: none is known.
    using PageOf = std::function<std::string(const house::Device&)>;

    AdaptersPage(JobModel& job, PageOf pageOf, QWidget* parent = nullptr);

    /// Reads the chosen adapter's own page.
    void read();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    struct Question {
        house::Id adapter;
        std::string url;
    };
    struct Answer {
        house::Id adapter;
        quantity::Result<house::AdapterStatus> status;
    };
    void refresh();
    void fillList();
    void showChosen();
    void buildRates(const house::Id& adapter);
    void noteRate(QLineEdit* field, const house::Id& medium, const house::Id& from, const house::Id& to);
    void take(const Answer& answer);
    [[nodiscard]] const house::Device* chosen() const;

    JobModel& m_job;
    PageOf m_pageOf;
    std::vector<house::Id> m_adapters; ///< by row
    bool m_isStale = true;
    QTableWidget* m_list;
    QLabel* m_title;
    FieldForm* m_form;
    QWidget* m_rates;
    QGridLayout* m_rateRows;
    QPushButton* m_read;
    LatestWorker<Question, Answer> m_worker; // last: it answers into the above
};

} // namespace metrodos::desktop
