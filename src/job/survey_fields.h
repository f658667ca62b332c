// The survey's fields, kind by kind: what a house's things have, in files (JSON, tables), in the window's
// tables and in typed lines. Whoever reads or writes one of these goes through here, so that a new field is
// one line in survey_fields*.cpp and a member in house.
#pragma once

#include "job/survey_field.h"

namespace metrodos::job {

/// The fields of one kind of thing, in the order in which tables show them. Without a catalog there are no
/// classes to choose from, which files do not need.
template <typename Item>
[[nodiscard]] std::vector<Field<Item>> fieldsOf(const catalog::Catalog* catalog = nullptr);

template <>
std::vector<Field<house::Room>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Jack>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Connection>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::CoaxPart>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Panel>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Circuit>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Appliance>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Storage>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Port>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Device>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Spot>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Service>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::CoaxUse>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Route>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::AdapterRecord>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::Network>> fieldsOf(const catalog::Catalog*);
template <>
std::vector<Field<house::PortAddress>> fieldsOf(const catalog::Catalog*);

/// One thing as JSON, and back; throws quantity::BadField.
template <typename Item>
[[nodiscard]] json toJson(const House& house, const Item& item) {
    static const std::vector<Field<Item>> fields = fieldsOf<Item>();
    json out = json::object();
    for (const Field<Item>& f : fields)
        if (!f.key.empty()) out[f.key] = f.write(house, item);
    return out;
}
template <typename Item>
[[nodiscard]] Item fromJson(const json& object) {
    static const std::vector<Field<Item>> fields = fieldsOf<Item>();
    Item out;
    for (const Field<Item>& f : fields)
        if (!f.key.empty()) f.read(out, object);
    return out;
}

/// Sets the field that a typed line calls `name`, its title or its key ("stations 4", "length 23 m"); nothing
/// where there is none of that name.
template <typename Item>
[[nodiscard]] std::optional<quantity::Result<void>>
setNamed(House& house, Item& item, const catalog::Catalog& catalog, const std::string& typed) {
    const auto folded = [](std::string_view text) {
        std::string out;
        for (const char c : text)
            if (std::isalnum(static_cast<unsigned char>(c))) out += static_cast<char>(std::tolower(c));
        return out;
    };
    for (const Field<Item>& f : fieldsOf<Item>(&catalog)) {
        if (!f.set || f.title.empty()) continue;
        for (const std::string& name : {f.title, make::spaced(f.key)})
            if (typed.size() > name.size() && typed[name.size()] == ' ' &&
                folded(typed.substr(0, name.size())) == folded(name)) {
                const std::size_t value = typed.find_first_not_of(' ', name.size());
                return f.set(house, item, value == std::string::npos ? "" : typed.substr(value));
            }
    }
    return std::nullopt;
}

/// What JSON Schema says of the fields of each definition in data/schema/job.json, by the definition's name.
[[nodiscard]] json surveySchemas();

} // namespace metrodos::job
