#include "desktop/survey_table.h"

#include "desktop/theme.h"

namespace metrodos::desktop {

SurveyTable::SurveyTable(JobModel& model, QObject* parent)
    : QAbstractTableModel(parent)
    , m_model(model)
    , m_columns(columnsOf(m_kind, model.catalog())) {
    connect(&m_model, &JobModel::changed, this, [this] {
        beginResetModel();
        endResetModel();
    });
}

void SurveyTable::setKind(SurveyKind kind) {
    beginResetModel();
    m_kind = kind;
    m_columns = columnsOf(kind, m_model.catalog());
    endResetModel();
}

int SurveyTable::rowCount(const QModelIndex& parent) const {
    if (parent.isValid()) return 0;
    const house::House& h = m_model.house();
    std::size_t ports = 0;
    switch (m_kind) {
    case SurveyKind::rooms:
        return static_cast<int>(h.rooms.size());
    case SurveyKind::jacks:
        return static_cast<int>(h.jacks.size());
    case SurveyKind::runs:
        return static_cast<int>(h.connections.size());
    case SurveyKind::coax_parts:
        return static_cast<int>(h.coaxParts.size());
    case SurveyKind::panels:
        return static_cast<int>(h.panels.size());
    case SurveyKind::circuits:
        return static_cast<int>(h.circuits.size());
    case SurveyKind::appliances:
        return static_cast<int>(h.appliances.size());
    case SurveyKind::devices:
        return static_cast<int>(h.devices.size());
    case SurveyKind::ports:
        for (const house::Device& d : h.devices)
            ports += d.ports.size();
        return static_cast<int>(ports);
    case SurveyKind::needs:
        return static_cast<int>(h.spots.size());
    case SurveyKind::service:
        return h.service ? 1 : 0;
    case SurveyKind::coax_use:
        return m_model.hasJob() ? 1 : 0;
    }
    return 0;
}

house::Id SurveyTable::idOf(int row) const {
    const house::House& h = m_model.house();
    const auto r = static_cast<std::size_t>(row);
    if (row < 0 || row >= rowCount()) return {};
    switch (m_kind) {
    case SurveyKind::rooms:
        return h.rooms[r].id;
    case SurveyKind::jacks:
        return h.jacks[r].id;
    case SurveyKind::runs:
        return h.connections[r].id;
    case SurveyKind::coax_parts:
        return h.coaxParts[r].id;
    case SurveyKind::panels:
        return h.panels[r].id;
    case SurveyKind::circuits:
        return h.circuits[r].id;
    case SurveyKind::appliances:
        return h.appliances[r].id;
    case SurveyKind::devices:
        return h.devices[r].id;
    case SurveyKind::ports:
        return {}; // goes with its device
    case SurveyKind::needs:
        return h.spots[r].id;
    case SurveyKind::service:
        return h.service->id;
    case SurveyKind::coax_use:
        return {}; // belongs to the house
    }
    return {};
}

int SurveyTable::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_columns.size());
}

QStringList SurveyTable::choices(int column) const {
    const SurveyColumn& c = m_columns[static_cast<std::size_t>(column)];
    return c.choices ? c.choices(m_model.house()) : QStringList();
}

QVariant SurveyTable::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const SurveyColumn& column = m_columns[static_cast<std::size_t>(index.column())];
    const QString value = column.get(m_model.house(), index.row());
    if (role == Qt::EditRole) return value;
    if (role == Qt::DisplayRole) return value.isEmpty() && column.set ? QStringLiteral("–") : value;
    if (role == Qt::ToolTipRole) return value;
    if (role == Qt::ForegroundRole && (value.isEmpty() || !column.set)) return theme().quiet;
    return {};
}

QVariant SurveyTable::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    return m_columns[static_cast<std::size_t>(section)].title;
}

Qt::ItemFlags SurveyTable::flags(const QModelIndex& index) const {
    Qt::ItemFlags out = QAbstractTableModel::flags(index);
    if (index.isValid() && m_columns[static_cast<std::size_t>(index.column())].set) out |= Qt::ItemIsEditable;
    return out;
}

bool SurveyTable::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::EditRole || !index.isValid()) return false;
    const SurveyColumn& column = m_columns[static_cast<std::size_t>(index.column())];
    const QString now = column.get(m_model.house(), index.row());
    const QString wanted = value.toString().trimmed();
    if (!column.set || now == wanted) return false;
    house::House next = m_model.house();
    if (const auto done = column.set(next, index.row(), wanted.toStdString()); !done) {
        m_model.apply({}, tl::unexpected(done.error()));
        return false;
    }
    m_model.apply(tr("change %1").arg(column.title), next);
    return column.get(m_model.house(), index.row()) != now; // unless the job refused it
}

} // namespace metrodos::desktop
