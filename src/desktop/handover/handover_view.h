// Hand over: the documents of a job, chapter by chapter, as they will be printed and saved.
#pragma once

#include "desktop/handover/document_maker.h"
#include "desktop/model/job_model.h"
#include "desktop/model/latest_worker.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPagedPaintDevice;
class QPushButton;
class QStackedWidget;
class QTextBrowser;

namespace metrodos::desktop {

class PageView;

class HandoverView : public QWidget {
    Q_OBJECT

  public:
    explicit HandoverView(JobModel& job, QWidget* parent = nullptr);
    ~HandoverView() override;

    [[nodiscard]] QString sentence() const;
    /// How much was handed over, for the rail.
    [[nodiscard]] QString progress() const;
    void takeFocus();
    /// What is worked out beside the window is there.
    [[nodiscard]] bool isSettled() const { return m_asked == m_answered && m_ordered == m_written; }
    /// Writes the document as it is shown, or another file of the job, by the ending of the name. A document
    /// is kept in the job.
    void saveTo(const QString& file);
    /// The pages as they are shown.
    void printOn(QPagedPaintDevice& device, int dpi);
    /// The picture of a file for the head of every document, from now on.
    void setLogo(const QString& file);

  Q_SIGNALS:
    void shown(); ///< the sentence is another one
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    using Answer = quantity::Result<MadeDocument>;
    struct Order {
        DocumentQuestion question;
        QString file;
    };
    struct Outcome {
        QString file;
        quantity::Result<void> written;
    };

    [[nodiscard]] QWidget* makePanel();
    [[nodiscard]] DocumentQuestion question() const;
    void ask();
    void take(std::uint64_t number, Answer answer);
    void takeWritten(std::uint64_t number, const Outcome& outcome);
    void forget();
    void fillChapters();
    void fillKept();
    void showPreview();
    void showNote();
    void showFirm();
    void keepDocument();
    void keepChapters();
    void move(int step);
    void askForFile();
    void askForLogo();
    void print();
    [[nodiscard]] Reader reader() const;
    [[nodiscard]] report::Paper paper() const;

    JobModel& m_job;
    std::optional<MadeDocument> m_made;
    std::vector<job::KeptDocument> m_kept; ///< as they are listed, the newest first
    std::string m_logo;                    ///< PNG
    std::uint64_t m_asked = 0;
    std::uint64_t m_answered = 0;
    std::uint64_t m_ordered = 0;
    std::uint64_t m_written = 0;
    bool m_isStale = true;
    bool m_isKeeping = false; ///< the change of the job is that a document was kept
    QComboBox* m_reader;
    QComboBox* m_paper;
    QLineEdit* m_firm;
    QLineEdit* m_colour;
    QPushButton* m_logoButton = nullptr;
    QCheckBox* m_private;
    QListWidget* m_chapters;
    QLineEdit* m_note;
    QComboBox* m_keptList;
    QLabel* m_privacy;
    QStackedWidget* m_preview;
    PageView* m_pages;
    QTextBrowser* m_text;                            ///< of a document that was handed over
    LatestWorker<DocumentQuestion, Answer> m_worker; // these last: they answer into the above
    LatestWorker<Order, Outcome> m_writer;
};

} // namespace metrodos::desktop
