// The first meeting with a machine whose agent has no key yet: its address and its eight words, then four
// words by which people see that both sides made the same key.
#pragma once

#include "desktop/model/test_runner.h"
#include "probe/known_machines.h"
#include "probe/meeting.h"

#include <QWidget>
#include <memory>

class QLabel;
class QLineEdit;
class QPushButton;

namespace metrodos::desktop {

class MeetPanel : public QWidget {
    Q_OBJECT

  public:
    explicit MeetPanel(std::shared_ptr<probe::KnownMachines> known, QWidget* parent = nullptr);

    /// Asks for the words; `address` may be empty, and is asked for as well.
    void begin(const QString& address);
    /// The same with words that a code has told.
    void begin(const QString& address, const probe::MeetingCode& code);

  Q_SIGNALS:
    /// Both sides keep the key.
    void met(const QString& name, const QString& address);
    void said(const QString& sentence, bool isProblem);

  protected:
    bool event(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    enum class Step { asking, calling, comparing, keeping };
    void showStep(Step step);
    void call();
    void keep();
    void end();
    void hangUp();
    void fail(const QString& sentence);
    void countWords();

    std::shared_ptr<probe::KnownMachines> m_known;
    std::shared_ptr<std::unique_ptr<probe::MeetingCall>> m_call; ///< shared with the thread that makes it
    QLineEdit* m_address;
    QLineEdit* m_words;
    QLabel* m_hint;
    QLabel* m_four;
    QPushButton* m_meet;
    QPushButton* m_same;
    QPushButton* m_cancel;
    TestRunner m_runner;
    Step m_step = Step::asking;
};

} // namespace metrodos::desktop
