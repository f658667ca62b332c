#include "desktop/walk/survey_table.h"

#include "desktop/widgets/plain_text.h"
#include "desktop/widgets/theme.h"

#include <QCoreApplication>

namespace metrodos::desktop {
namespace {

std::size_t place(int n) {
    return static_cast<std::size_t>(n);
}

QString translated(const std::string& title) {
    return QCoreApplication::translate("SurveyTable", title.c_str());
}

} // namespace

SurveyTableModel::SurveyTableModel(JobModel& model, QObject* parent)
    : QAbstractTableModel(parent)
    , m_model(model)
    , m_table(job::surveyTable(job::SurveyKind::rooms, model.catalog())) {
    connect(&m_model, &JobModel::changed, this, [this] {
        beginResetModel();
        endResetModel();
    });
}

void SurveyTableModel::setKind(job::SurveyKind kind) {
    beginResetModel();
    m_table = job::surveyTable(kind, m_model.catalog());
    endResetModel();
}

int SurveyTableModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() || !m_model.hasJob() ? 0 : static_cast<int>(m_table->rows(m_model.house()));
}

house::Id SurveyTableModel::idOf(int row) const {
    return row < 0 ? house::Id() : m_table->id(m_model.house(), place(row));
}

int SurveyTableModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_table->columns());
}

std::vector<job::Choice> SurveyTableModel::choices(const QModelIndex& at) const {
    return m_table->choices(m_model.house(), place(at.row()), place(at.column()));
}

QString SurveyTableModel::textAt(const QModelIndex& at) const {
    return QString::fromStdString(m_table->text(m_model.house(), place(at.row()), place(at.column())));
}

QVariant SurveyTableModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || at.row() >= rowCount()) return {};
    const bool canChange = m_table->canChange(place(at.column()));
    if (role == Qt::EditRole) return textAt(at);
    if (role == Qt::DisplayRole) {
        const QString value = textAt(at);
        return value.isEmpty() && canChange ? QStringLiteral("–") : value;
    }
    if (role == Qt::ToolTipRole) return plainTip(textAt(at));
    if (role == Qt::ForegroundRole && (!canChange || textAt(at).isEmpty())) return theme().quiet;
    return {};
}

QVariant SurveyTableModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    return translated(m_table->title(place(section)));
}

Qt::ItemFlags SurveyTableModel::flags(const QModelIndex& at) const {
    Qt::ItemFlags out = QAbstractTableModel::flags(at);
    if (at.isValid() && m_table->canChange(place(at.column()))) out |= Qt::ItemIsEditable;
    return out;
}

bool SurveyTableModel::setData(const QModelIndex& at, const QVariant& value, int role) {
    if (role != Qt::EditRole || !at.isValid()) return false;
    const QString now = textAt(at);
    const QString wanted = value.toString().trimmed();
    if (now == wanted) return false;
    house::House next = m_model.house();
    if (const auto done = m_table->set(next, place(at.row()), place(at.column()), wanted.toStdString());
        !done) {
        m_model.apply({}, tl::unexpected(done.error()));
        return false;
    }
    m_model.apply(tr("change %1").arg(translated(m_table->title(place(at.column())))), next);
    return textAt(at) != now; // unless the job refused it
}

} // namespace metrodos::desktop
