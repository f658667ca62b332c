// The survey as tables for entry: one kind of thing at a time, every cell a field that can be changed and
// undone.
#pragma once

#include "desktop/job_model.h"

#include <QAbstractTableModel>
#include <functional>

namespace metrodos::desktop {

enum class SurveyKind {
    rooms,
    jacks,
    runs,
    coax_parts,
    panels,
    circuits,
    appliances,
    devices,
    ports,
    needs,
    service,  ///< one row when there is one
    coax_use, ///< one row
};

/// A column: reading, writing and what may be chosen. A writer returns a Problem for what it cannot take.
struct SurveyColumn {
    QString title;
    std::function<QString(const house::House&, int row)> get;
    std::function<quantity::Result<void>(house::House&, int row, const std::string&)> set;
    std::function<QStringList(const house::House&)> choices; ///< empty function: free text
};

class SurveyTable : public QAbstractTableModel {
    Q_OBJECT

  public:
    explicit SurveyTable(JobModel& model, QObject* parent = nullptr);

    void setKind(SurveyKind kind);
    [[nodiscard]] house::Id idOf(int row) const;
    [[nodiscard]] QStringList choices(int column) const;

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  private:
    JobModel& m_model;
    SurveyKind m_kind = SurveyKind::rooms;
    std::vector<SurveyColumn> m_columns;
};

/// The columns of a kind.
[[nodiscard]] std::vector<SurveyColumn> columnsOf(SurveyKind kind, const catalog::Catalog& catalog);

} // namespace metrodos::desktop
