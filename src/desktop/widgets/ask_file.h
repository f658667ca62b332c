// A question for a file that nothing waits for: what is chosen comes later.
#pragma once

#include <QFileDialog>
#include <functional>

namespace metrodos::desktop {

/// `proposed` is the name that a file is saved under unless somebody says otherwise; empty: an existing file
/// is to be opened.
inline void askFile(QWidget* parent, const QString& title, const QString& proposed, const QString& filter,
                    const std::function<void(const QString& file)>& chosen) {
    auto* dialog = new QFileDialog(parent, title, proposed, filter);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QFileDialog::DontUseNativeDialog);
    dialog->setAcceptMode(proposed.isEmpty() ? QFileDialog::AcceptOpen : QFileDialog::AcceptSave);
    dialog->setFileMode(proposed.isEmpty() ? QFileDialog::ExistingFile : QFileDialog::AnyFile);
    QObject::connect(dialog, &QFileDialog::fileSelected, parent, chosen);
    dialog->open();
}

} // namespace metrodos::desktop
