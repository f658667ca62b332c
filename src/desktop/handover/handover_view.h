// Hand over: the documents of a job, chapter by chapter, as they will be saved.
#pragma once

#include "desktop/model/job_model.h"
#include "desktop/model/latest_worker.h"
#include "report/handover.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QTextBrowser;

namespace metrodos::desktop {

class HandoverView : public QWidget {
    Q_OBJECT

  public:
    explicit HandoverView(JobModel& job, QWidget* parent = nullptr);
    ~HandoverView() override;

    [[nodiscard]] QString sentence() const;
    void takeFocus();
    /// What is worked out beside the window is there.
    [[nodiscard]] bool isSettled() const { return m_asked == m_answered; }
    /// Writes the document as it is shown, by the ending of the name: .html or .md.
    void saveTo(const QString& file);

  Q_SIGNALS:
    void shown(); ///< the sentence is another one
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    enum class Reader { client, technician };
    struct Question {
        std::filesystem::path file;
        std::shared_ptr<const catalog::Catalog> catalog;
        report::HandOverSettings settings;
        Reader reader = Reader::client;
    };
    using Answer = quantity::Result<report::Document>;
    static Answer work(const Question& question);
    void ask();
    void take(std::uint64_t number, Answer answer);
    void fillChapters();
    void showNote();
    void keep();
    void move(int step);
    void askForFile(const QString& ending);
    [[nodiscard]] Reader reader() const;

    JobModel& m_job;
    std::optional<report::Document> m_whole;    ///< with every chapter, as they come
    std::optional<report::Document> m_document; ///< as it is shown
    std::uint64_t m_asked = 0;
    std::uint64_t m_answered = 0;
    bool m_isStale = true;
    QComboBox* m_reader;
    QLineEdit* m_firm;
    QListWidget* m_chapters;
    QLineEdit* m_note;
    QTextBrowser* m_preview;
    LatestWorker<Question, Answer> m_worker; // last: it answers into the above
};

} // namespace metrodos::desktop
