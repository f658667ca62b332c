// The fields of one thing as a form: what a field shows and takes is said where the fields of files are
// (job/survey_field.h), so that a form, a table and a file never differ.
#pragma once

#include "job/survey_field.h"

#include <QWidget>
#include <functional>
#include <vector>

class QFormLayout;

namespace metrodos::desktop {

struct FormRow {
    QString title;
    QString value;
    QStringList choices; ///< empty: it is typed
    std::function<quantity::Result<void>(const QString&)> set;
};

/// Keeps what is typed as soon as a field is left or Enter is pressed. The keyboard stays where it is when
/// rows of the same titles come.
class FieldForm : public QWidget {
    Q_OBJECT

  public:
    explicit FieldForm(const QString& name, QWidget* parent = nullptr);

    void setRows(std::vector<FormRow> rows);
    /// The widget of a row, by its title; nullptr: there is none.
    [[nodiscard]] QWidget* field(const QString& title) const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void build();
    void take(std::size_t row, const QString& text);

    std::vector<FormRow> m_rows;
    std::vector<QWidget*> m_fields; ///< by row
    QFormLayout* m_layout;
    bool m_filling = false;
};

/// The rows of an item: `keep` takes the house and the item with one field set.
template <typename Item>
[[nodiscard]] std::vector<FormRow>
formRows(const std::vector<job::Field<Item>>& fields, const house::House& house, const Item& item,
         const std::function<quantity::Result<void>(house::House&&, const Item&)>& keep) {
    std::vector<FormRow> out;
    for (const job::Field<Item>& f : fields) {
        if (f.title.empty() || !f.set) continue;
        FormRow row;
        row.title = QString::fromStdString(f.title);
        row.value = QString::fromStdString(f.show(house, item));
        if (f.choices)
            for (const job::Choice& c : f.choices(house, item))
                row.choices << QString::fromStdString(c.label);
        row.set = [set = f.set, house, item, keep](const QString& text) -> quantity::Result<void> {
            house::House next = house;
            Item changed = item;
            if (auto done = set(next, changed, text.simplified().toStdString()); !done) return done;
            return keep(std::move(next), changed);
        };
        out.push_back(std::move(row));
    }
    return out;
}

} // namespace metrodos::desktop
