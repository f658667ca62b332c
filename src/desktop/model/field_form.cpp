#include "desktop/model/field_form.h"

#include "desktop/widgets/plain_text.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLineEdit>

namespace metrodos::desktop {
namespace {

constexpr int maxWords = 300;

} // namespace

FieldForm::FieldForm(const QString& name, QWidget* parent)
    : QWidget(parent)
    , m_layout(new QFormLayout(this)) {
    setObjectName(name);
    m_layout->setContentsMargins(0, 0, 0, 0);
    m_layout->setVerticalSpacing(5);
    m_layout->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
}

void FieldForm::setRows(std::vector<FormRow> rows) {
    bool isSame = rows.size() == m_rows.size();
    for (std::size_t i = 0; isSame && i < rows.size(); ++i)
        isSame = rows[i].title == m_rows[i].title && rows[i].choices.isEmpty() == m_rows[i].choices.isEmpty();
    m_rows = std::move(rows);
    if (!isSame) build();
    m_filling = true;
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        if (auto* box = qobject_cast<QComboBox*>(m_fields[i])) {
            box->clear();
            box->addItems(m_rows[i].choices);
            if (box->findText(m_rows[i].value) < 0) box->insertItem(0, m_rows[i].value);
            box->setCurrentIndex(box->findText(m_rows[i].value));
        } else if (auto* line = qobject_cast<QLineEdit*>(m_fields[i])) {
            if (line->text() != m_rows[i].value) line->setText(m_rows[i].value);
        }
    }
    m_filling = false;
}

QWidget* FieldForm::field(const QString& title) const {
    for (std::size_t i = 0; i < m_rows.size(); ++i)
        if (m_rows[i].title == title) return m_fields[i];
    return nullptr;
}

void FieldForm::build() {
    while (m_layout->rowCount() > 0)
        m_layout->removeRow(0);
    m_fields.clear();
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        QWidget* made = nullptr;
        if (m_rows[i].choices.isEmpty()) {
            auto* line = new QLineEdit;
            line->setMaxLength(maxWords);
            connect(line, &QLineEdit::editingFinished, this, [this, i, line] { take(i, line->text()); });
            made = line;
        } else {
            auto* box = new QComboBox;
            box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
            box->setMinimumContentsLength(8);
            connect(box, &QComboBox::activated, this, [this, i, box] { take(i, box->currentText()); });
            made = box;
        }
        made->setAccessibleName(m_rows[i].title);
        m_layout->addRow(labelFor(made, m_rows[i].title), made);
        m_fields.push_back(made);
    }
}

void FieldForm::take(std::size_t row, const QString& text) {
    if (m_filling || row >= m_rows.size() || text == m_rows[row].value) return;
    const auto set = m_rows[row].set; // what is kept fills the rows anew
    const QString before = m_rows[row].value;
    if (const auto done = set(text); !done) {
        Q_EMIT said(QString::fromStdString(done.error().sentence()), true);
        m_filling = true;
        if (auto* box = qobject_cast<QComboBox*>(m_fields[row])) box->setCurrentIndex(box->findText(before));
        if (auto* line = qobject_cast<QLineEdit*>(m_fields[row])) line->setText(before);
        m_filling = false;
    }
}

} // namespace metrodos::desktop
