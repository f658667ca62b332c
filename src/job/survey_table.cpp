#include "job/survey_table.h"

#include "job/survey_fields.h"
#include "quantity/text.h"

namespace metrodos::job {
namespace {

using namespace house;
using quantity::Result;

// The table of things that `at` finds by their row; `count` says how many there are.
template <typename Item>
class ThingTable final : public SurveyTable {
  public:
    using At = std::function<Item*(House&, std::size_t)>;
    using Count = std::function<std::size_t(const House&)>;
    using IdOf = std::function<Id(const Item&)>;

    ThingTable(std::vector<Field<Item>> fields, Count count, At at, IdOf idOf)
        : m_fields(std::move(fields))
        , m_count(std::move(count))
        , m_at(std::move(at))
        , m_idOf(std::move(idOf)) {
        std::erase_if(m_fields, [](const Field<Item>& f) { return f.title.empty() || !f.show; });
    }

    std::size_t rows(const House& house) const override { return m_count(house); }
    std::size_t columns() const override { return m_fields.size(); }
    const std::string& title(std::size_t column) const override { return m_fields.at(column).title; }
    bool canChange(std::size_t column) const override { return static_cast<bool>(m_fields.at(column).set); }

    Id id(const House& house, std::size_t row) const override {
        const Item* item = find(house, row);
        return item == nullptr || !m_idOf ? Id() : m_idOf(*item);
    }

    std::string text(const House& house, std::size_t row, std::size_t column) const override {
        const Item* item = find(house, row);
        return item == nullptr ? std::string() : m_fields.at(column).show(house, *item);
    }

    Result<void> set(House& house, std::size_t row, std::size_t column,
                     const std::string& typed) const override {
        Item* item = m_at(house, row);
        const Field<Item>& field = m_fields.at(column);
        if (item == nullptr || !field.set)
            return quantity::problem("this cannot be changed here", "", "choose another cell");
        return field.set(house, *item, quantity::oneLine(typed));
    }

    std::vector<Choice> choices(const House& house, std::size_t row, std::size_t column) const override {
        const Field<Item>& field = m_fields.at(column);
        const Item* item = find(house, row);
        return !field.choices || item == nullptr ? std::vector<Choice>() : field.choices(house, *item);
    }

  private:
    const Item* find(const House& house, std::size_t row) const {
        return row < m_count(house) ? m_at(const_cast<House&>(house), row) : nullptr; // reads only
    }

    std::vector<Field<Item>> m_fields;
    Count m_count;
    At m_at;
    IdOf m_idOf;
};

template <typename Item>
std::unique_ptr<SurveyTable> listed(const catalog::Catalog& catalog, std::vector<Item> House::*list) {
    return std::make_unique<ThingTable<Item>>(
        fieldsOf<Item>(&catalog), [list](const House& h) { return (h.*list).size(); },
        [list](House& h, std::size_t row) { return row < (h.*list).size() ? &(h.*list)[row] : nullptr; },
        [](const Item& item) { return item.id; });
}

// One row a port, over all devices; its first column says whose it is.
Port* portAt(House& house, std::size_t row) {
    for (Device& d : house.devices) {
        if (row < d.ports.size()) return &d.ports[row];
        row -= d.ports.size();
    }
    return nullptr;
}

const Device* ownerOf(const House& house, const Port& port) {
    for (const Device& d : house.devices)
        if (!d.ports.empty() && &port >= &d.ports.front() && &port <= &d.ports.back()) return &d;
    return nullptr;
}

std::unique_ptr<SurveyTable> ports(const catalog::Catalog& catalog) {
    std::vector<Field<Port>> fields{make::derived<Port>("Device", [](const House& h, const Port& p) {
        const Device* owner = ownerOf(h, p);
        return owner == nullptr ? std::string() : owner->label;
    })};
    for (Field<Port>& f : fieldsOf<Port>(&catalog)) {
        // What its link was read to run at was of the port before.
        if (f.key == "phy")
            f.set = [set = f.set](House& h, Port& p, const std::string& typed) {
                if (const Device* owner = ownerOf(h, p)) h.forgetLinks(owner->id);
                return set(h, p, typed);
            };
        fields.push_back(std::move(f));
    }
    return std::make_unique<ThingTable<Port>>(
        std::move(fields),
        [](const House& h) {
            std::size_t out = 0;
            for (const Device& d : h.devices)
                out += d.ports.size();
            return out;
        },
        &portAt, ThingTable<Port>::IdOf());
}

} // namespace

const char* title(SurveyKind kind) {
    switch (kind) {
    case SurveyKind::rooms:
        return "Rooms";
    case SurveyKind::jacks:
        return "Jacks";
    case SurveyKind::runs:
        return "Runs";
    case SurveyKind::coax_parts:
        return "Coax parts";
    case SurveyKind::panels:
        return "Panels";
    case SurveyKind::circuits:
        return "Circuits";
    case SurveyKind::appliances:
        return "Appliances";
    case SurveyKind::devices:
        return "Devices";
    case SurveyKind::ports:
        return "Ports";
    case SurveyKind::needs:
        return "Needs";
    case SurveyKind::routes:
        return "Routes";
    case SurveyKind::service:
        return "Service";
    case SurveyKind::coax_use:
        return "Coax tree carries";
    }
    return "";
}

std::unique_ptr<SurveyTable> surveyTable(SurveyKind kind, const catalog::Catalog& catalog) {
    switch (kind) {
    case SurveyKind::rooms:
        return listed(catalog, &House::rooms);
    case SurveyKind::jacks:
        return listed(catalog, &House::jacks);
    case SurveyKind::runs:
        return listed(catalog, &House::connections);
    case SurveyKind::coax_parts:
        return listed(catalog, &House::coaxParts);
    case SurveyKind::panels:
        return listed(catalog, &House::panels);
    case SurveyKind::circuits:
        return listed(catalog, &House::circuits);
    case SurveyKind::appliances:
        return listed(catalog, &House::appliances);
    case SurveyKind::devices:
        return listed(catalog, &House::devices);
    case SurveyKind::ports:
        return ports(catalog);
    case SurveyKind::needs:
        return listed(catalog, &House::spots);
    case SurveyKind::routes:
        return listed(catalog, &House::routes);
    case SurveyKind::service:
        return std::make_unique<ThingTable<Service>>(
            fieldsOf<Service>(&catalog), [](const House& h) { return h.service ? 1U : 0U; },
            [](House& h, std::size_t) { return h.service ? &*h.service : nullptr; },
            [](const Service& s) { return s.id; });
    case SurveyKind::coax_use:
        return std::make_unique<ThingTable<CoaxUse>>(
            fieldsOf<CoaxUse>(&catalog), [](const House&) { return 1U; },
            [](House& h, std::size_t) { return &h.coaxUse; }, ThingTable<CoaxUse>::IdOf());
    }
    return nullptr;
}

} // namespace metrodos::job
