// The keys of a stage and those that hold everywhere, in a small window beside the work.
#pragma once

#include "desktop/model/pages.h"

#include <QDialog>

namespace metrodos::desktop {

/// A tool window: the keys of the main window hold in it, those that close it among them.
class KeysPanel : public QDialog {
    Q_OBJECT

  public:
    explicit KeysPanel(QWidget* parent);
    void showKeys(Stage stage);

  private:
    QWidget* m_body;
};

} // namespace metrodos::desktop
