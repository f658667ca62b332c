// The photos of a step in a row: from a file, larger, taken out.
#pragma once

#include "desktop/model/job_model.h"
#include "fit/steps.h"

#include <QWidget>
#include <map>

class QListWidget;

namespace metrodos::desktop {

class PhotoStrip : public QWidget {
    Q_OBJECT

  public:
    explicit PhotoStrip(JobModel& job, QWidget* parent = nullptr);

    void showStep(const fit::Step& step);
    /// Asks for a file, and adds it.
    void ask();
    void add(const QString& file);
    /// Takes out the chosen photo.
    void takeOut();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void fill();
    void enlarge();
    [[nodiscard]] QImage imageOf(const std::string& digest);

    JobModel& m_job;
    fit::Step m_step;
    std::vector<house::Photo> m_photos;
    std::map<std::string, QImage> m_small; ///< by digest
    QListWidget* m_list;
};

} // namespace metrodos::desktop
