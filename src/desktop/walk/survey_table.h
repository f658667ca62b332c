// The survey's tables in the window: every cell a field that can be changed and undone. What the fields are
// is said in job/survey_fields.h.
#pragma once

#include "desktop/model/job_model.h"
#include "job/survey_table.h"

#include <QAbstractTableModel>
#include <memory>

namespace metrodos::desktop {

class SurveyTableModel : public QAbstractTableModel {
    Q_OBJECT

  public:
    explicit SurveyTableModel(JobModel& model, QObject* parent = nullptr);

    void setKind(job::SurveyKind kind);
    [[nodiscard]] house::Id idOf(int row) const;
    [[nodiscard]] std::vector<job::Choice> choices(const QModelIndex& index) const;

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  private:
    [[nodiscard]] QString textAt(const QModelIndex& index) const;

    JobModel& m_model;
    std::unique_ptr<job::SurveyTable> m_table;
};

} // namespace metrodos::desktop
