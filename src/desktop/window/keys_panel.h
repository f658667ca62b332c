// The keys of a stage and those that hold everywhere, in a small window beside the work.
#pragma once

#include "desktop/model/pages.h"

#include <QDialog>

class QGridLayout;

namespace metrodos::desktop {

class KeysPanel : public QDialog {
    Q_OBJECT

  public:
    explicit KeysPanel(QWidget* parent);
    void showKeys(Stage stage);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QWidget* m_body;
    QGridLayout* m_rows;
};

} // namespace metrodos::desktop
