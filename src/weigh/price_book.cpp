#include "weigh/price_book.h"

#include <algorithm>

namespace metrodos::weigh {
namespace {

template <typename T>
auto itemIn(T& list, std::string_view item) -> decltype(list.data()) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const auto& one) { return one.item == item; });
    return it == list.end() ? nullptr : &*it;
}

} // namespace

const PriceLine* PriceBook::line(std::string_view item) const {
    return itemIn(lines, item);
}

PriceLine& PriceBook::lineFor(const std::string& item) {
    if (PriceLine* known = itemIn(lines, item)) return *known;
    lines.push_back({item, "", std::nullopt, 0});
    return lines.back();
}

std::vector<PricedItem> pricedItems(const catalog::Catalog& catalog) {
    std::vector<PricedItem> out;
    for (const catalog::PartClass& part : catalog.planning.parts)
        out.push_back({part.id, part.label, part.unit, part.price});
    for (const catalog::SwitchModel& model : catalog.planning.switches)
        out.push_back({model.id, model.label, "piece", model.price});
    for (const catalog::DeviceClass& device : catalog.devices)
        if (device.family != catalog::Family::network_switch) // sold as models
            out.push_back({device.id, device.label, "piece", device.price});
    return out;
}

Prices::Prices(const catalog::Catalog& catalog, const PriceBook& book)
    : m_items(pricedItems(catalog))
    , m_book(book) {}

const PricedItem* Prices::find(std::string_view item) const {
    return itemIn(m_items, item);
}

Money Prices::of(std::string_view item) const {
    const PriceLine* own = m_book.line(item);
    if (own != nullptr && own->price) return *own->price;
    const PricedItem* known = find(item);
    return known == nullptr ? Money{} : known->guide;
}

std::string Prices::label(std::string_view item) const {
    const PriceLine* own = m_book.line(item);
    if (own != nullptr && !own->product.empty()) return own->product;
    const PricedItem* known = find(item);
    return known == nullptr ? std::string(item) : known->label;
}

std::string Prices::unit(std::string_view item) const {
    const PricedItem* known = find(item);
    return known == nullptr ? "piece" : known->unit;
}

Prices Prices::with(const std::string& item, Money price) const {
    Prices out = *this;
    out.m_book.lineFor(item).price = price;
    return out;
}

int Prices::stock(std::string_view item) const {
    const PriceLine* own = m_book.line(item);
    return own == nullptr ? 0 : own->stock;
}

} // namespace metrodos::weigh
