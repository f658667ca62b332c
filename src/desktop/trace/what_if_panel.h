// What the route would carry with something else in the place of the chosen element.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

class QLabel;

namespace metrodos::desktop {

class RangeList;

class WhatIfPanel : public QWidget {
    Q_OBJECT

  public:
    explicit WhatIfPanel(RouteModel& model, QWidget* parent = nullptr);

  private:
    void fill();
    RouteModel& m_model;
    QLabel* m_heading;
    RangeList* m_rows;
};

} // namespace metrodos::desktop
