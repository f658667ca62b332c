// The survey as tables, one for each kind of thing: what the window shows and lets be changed, without the
// window.
#pragma once

#include "job/survey_field.h"

#include <memory>

namespace metrodos::job {

enum class SurveyKind {
    rooms,
    jacks,
    runs,
    coax_parts,
    panels,
    circuits,
    appliances,
    devices,
    ports, ///< of all devices
    needs,
    routes,
    service,  ///< one row when there is one
    coax_use, ///< one row
};
inline constexpr std::size_t surveyKinds = 13;
[[nodiscard]] const char* title(SurveyKind kind); ///< "Rooms"

/// One kind's table: rows are its things, columns its fields that can be shown.
class SurveyTable {
  public:
    virtual ~SurveyTable() = default;

    [[nodiscard]] virtual std::size_t rows(const House& house) const = 0;
    [[nodiscard]] virtual std::size_t columns() const = 0;
    [[nodiscard]] virtual const std::string& title(std::size_t column) const = 0;
    [[nodiscard]] virtual bool canChange(std::size_t column) const = 0;
    /// The id of the thing in a row; empty where it has none of its own.
    [[nodiscard]] virtual house::Id id(const House& house, std::size_t row) const = 0;
    [[nodiscard]] virtual std::string text(const House& house, std::size_t row, std::size_t column) const = 0;
    /// A Problem says what does not fit; then the house is as it was.
    virtual quantity::Result<void> set(House& house, std::size_t row, std::size_t column,
                                       const std::string& typed) const = 0;
    /// Empty: it is typed freely.
    [[nodiscard]] virtual std::vector<Choice> choices(const House& house, std::size_t row,
                                                      std::size_t column) const = 0;
};

/// The catalog must outlive the table.
[[nodiscard]] std::unique_ptr<SurveyTable> surveyTable(SurveyKind kind, const catalog::Catalog& catalog);

} // namespace metrodos::job
