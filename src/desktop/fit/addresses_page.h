// The address plan: networks, which port has which address, what clashes and how each clash is mended.
#pragma once

#include "desktop/model/field_form.h"
#include "desktop/model/job_model.h"
#include "house/addressing.h"
#include "probe/note_network.h"

#include <QWidget>

class QLabel;
class QListWidget;
class QTableWidget;

namespace metrodos::desktop {

class AddressesPage : public QWidget {
    Q_OBJECT

  public:
    explicit AddressesPage(JobModel& job, QWidget* parent = nullptr);

    /// Takes over what this machine sees.
    void takeOver(const probe::LocalNetwork& local);
    /// Writes the plan: by extension .csv, .hosts or .conf.
    void exportTo(const QString& file);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    enum class Of { network, port, seen, none };
    /// What is chosen, in whichever table.
    struct Chosen {
        Of of = Of::none;
        std::size_t index = 0;
    };
    void refresh();
    void fillNetworks();
    void fillPorts();
    void fillClashes();
    void showForm();
    void addNetwork();
    void addPort(const std::string& address = {}, const std::string& hardware = {});
    void remove();
    void mend(int row);
    void look();
    void testPort();
    void askExport();
    void apply(const QString& label, const house::Addressing& next);
    [[nodiscard]] const house::PortAddress* port() const;

    JobModel& m_job;
    std::vector<probe::SeenAddress> m_seen;
    std::vector<house::Clash> m_clashes; ///< by row
    Chosen m_chosen;
    bool m_isStale = true;
    QTableWidget* m_networks;
    QTableWidget* m_ports;
    QListWidget* m_clashList;
    QLabel* m_title;
    QLabel* m_tests;
    FieldForm* m_form;
};

} // namespace metrodos::desktop
