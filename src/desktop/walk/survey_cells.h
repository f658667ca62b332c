// A table of the survey as it is shown and filled in, and the fields of one of its rows.
#pragma once

#include <QTableView>

namespace metrodos::desktop {

class SurveyTableModel;

/// A view of `table`, for screen readers called `spoken`, whose cells are edited in place: a list to choose
/// from where the column has one. Its columns fit what they hold; the cell that was changed stays the current
/// one.
[[nodiscard]] QTableView* surveyView(SurveyTableModel* table, const QString& name, const QString& spoken);

/// As wide as what the columns hold, within bounds.
void fitColumns(QTableView* view);

} // namespace metrodos::desktop
