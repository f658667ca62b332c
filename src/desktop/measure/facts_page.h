// What one machine says of itself: its parts as ceilings, every fact beside what could be or was before, and
// what of it goes into the house.
#pragma once

#include "desktop/model/endpoint_access.h"
#include "desktop/model/machine_reader.h"
#include "desktop/model/route_model.h"

#include <QWidget>
#include <map>

class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace metrodos::desktop {

class RangeList;

class FactsPage : public QWidget {
    Q_OBJECT

  public:
    FactsPage(RouteModel& model, AccessTo access);

    /// Asks the chosen machine.
    void read();
    /// Puts what it said into the house, as one step of undo.
    void takeOver();
    /// Everything that shows, for screen readers and tests.
    [[nodiscard]] QString text() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    struct Known {
        MachineReading now;
        std::optional<probe::MachineFacts> before; ///< of the reading before
        QString at;                                ///< when, of the local clock
    };
    [[nodiscard]] house::Id chosen() const;
    void fillMachines();
    void show(const house::Id& endpoint);
    void take(const MachineReadings& readings);

    RouteModel& m_model;
    AccessTo m_access;
    QComboBox* m_machines;
    QPushButton* m_read;
    QPushButton* m_takeOver;
    QLabel* m_headline;
    RangeList* m_parts;
    QLabel* m_remarks;
    QTableWidget* m_facts;
    std::map<house::Id, Known> m_known; ///< of the open job
    MachineReader m_reader;
};

} // namespace metrodos::desktop
