// The rail at the left: the stages in the order of the work, each with what is still open in it.
#pragma once

#include "desktop/model/pages.h"

#include <QWidget>
#include <vector>

namespace metrodos::desktop {

class Rail : public QWidget {
    Q_OBJECT

  public:
    explicit Rail(QWidget* parent = nullptr);
    void setStage(Stage stage);
    [[nodiscard]] Stage stage() const { return m_stage; }
    /// A few words under the stage's name: "3 runs", "not measured".
    void setNote(Stage stage, const QString& note);
    [[nodiscard]] QSize sizeHint() const override { return {84, 200}; }

  Q_SIGNALS:
    void stageChosen(Stage stage);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    Stage m_stage = Stage::measure;
    QString m_notes[stageCount];
};

} // namespace metrodos::desktop
