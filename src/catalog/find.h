// Looking an entry up by its id. Internal to the layer.
#pragma once

#include <algorithm>
#include <string_view>

namespace metrodos::catalog {

/// nullptr: there is none.
template <typename Items>
auto find(const Items& items, std::string_view id) -> decltype(items.data()) {
    const auto hit =
        std::find_if(items.begin(), items.end(), [&](const auto& item) { return item.id == id; });
    return hit == items.end() ? nullptr : &*hit;
}

} // namespace metrodos::catalog
