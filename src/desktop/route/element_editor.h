// The fields of the chosen element: what it is, and what can be changed of it.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

class QComboBox;
class QFormLayout;
class QLineEdit;

namespace metrodos::desktop {

/// Rebuilt for every element. Each change is one step that can be undone.
class ElementEditor : public QWidget {
    Q_OBJECT

  public:
    explicit ElementEditor(RouteModel& model, QWidget* parent = nullptr);

  private:
    void rebuild();
    void refresh();
    void addLabelField(const house::Element& element);
    void addChoice(const house::Element& element);
    void addCableFields(const house::Connection& cable);
    void addAddress(const house::Element& element);

    RouteModel& m_model;
    QFormLayout* m_form;
    house::Id m_shown;
};

} // namespace metrodos::desktop
