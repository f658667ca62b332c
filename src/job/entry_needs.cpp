// What is needed where, and the service.
#include "job/entry_reader.h"

#include "job/survey_fields.h"
#include "quantity/ascii.h"

namespace metrodos::job {

using quantity::problem;
using quantity::Result;

// "900M down": the rate and the direction; nothing where it is not of this form, a Problem where it is no
// rate.
std::optional<Result<std::pair<quantity::BitRate, bool>>> EntryReader::directed(const std::string& field) {
    for (const auto& [word, down] : {std::pair(" down", true), std::pair(" up", false)})
        if (lower(field).ends_with(word) && quantity::ascii::isDigit(field.front())) {
            const auto rate =
                quantity::parseBitRate(field.substr(0, field.size() - std::string_view(word).size()));
            if (!rate) return tl::unexpected(rate.error());
            return std::pair(*rate, down);
        }
    return std::nullopt;
}

Result<void> EntryReader::need() {
    Spot spot;
    spot.room = m_room;
    for (std::size_t i = 2; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (field.empty()) continue;
        if (const auto rate = directed(field)) {
            if (!*rate) return tl::unexpected(rate->error());
            ((*rate)->second ? spot.needDown : spot.needUp) = (*rate)->first;
        } else if (const auto name = valueAfter(field, "at")) {
            const Device* device = labelled(m_house.devices, *name);
            if (device == nullptr) return notUnderstood(field, "name a device that is there");
            spot.device = device->id;
        } else if (auto named = setNamed(m_house, spot, m_catalog, field)) {
            if (!*named) return *named;
        } else if (spot.label.empty())
            spot.label = field;
        else
            return notUnderstood(field, "a need takes “100M down”, “20M up”, “at DEVICE” and a name");
    }
    if (spot.label.empty()) spot.label = "need in the " + m_house.room(m_room)->label;
    spot.id = m_house.freeId(stemOf(spot.label));
    note(spot.id, spot.label);
    m_house.spots.push_back(std::move(spot));
    return {};
}

Result<void> EntryReader::service() {
    Service s = m_house.service.value_or(Service{m_house.freeId("service"), "internet service", "", {}, {}});
    for (std::size_t i = 1; i < m_fields.size(); ++i) {
        const std::string& field = m_fields[i];
        if (field.empty()) continue;
        if (const auto rate = directed(field)) {
            if (!*rate) return tl::unexpected(rate->error());
            ((*rate)->second ? s.down : s.up) = (*rate)->first;
        } else if (const auto name = valueAfter(field, "at")) {
            const Device* device = labelled(m_house.devices, *name);
            if (device == nullptr) return notUnderstood(field, "name the box that the service ends in");
            s.device = device->id;
        } else if (auto named = setNamed(m_house, s, m_catalog, field)) {
            if (!*named) return *named;
        } else
            return notUnderstood(field, "a service takes “900M down”, “300M up” and “at BOX”");
    }
    if (s.device.empty())
        for (const Device& d : m_house.devices)
            if (d.kind == DeviceKind::router && s.device.empty()) s.device = d.id;
    if (s.device.empty())
        return problem("the service ends in no box yet", "", "enter its router first: “Hall / router”");
    note(s.id, s.label);
    m_house.service = std::move(s);
    return {};
}

} // namespace metrodos::job
