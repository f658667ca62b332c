#include "job/fitting_csv.h"

#include "house/addressing.h"
#include "job/csv_table.h"

#include <algorithm>

namespace metrodos::job {

std::string addressesCsv(const house::House& house) {
    std::string out =
        csvRow({"name", "address", "kept_by", "hardware", "device", "port", "network", "prefix", "gateway"});
    const auto names = house::hostNames(house);
    for (const house::PortAddress& p : house.addressing.ports) {
        const auto& networks = house.addressing.networks;
        const auto network = std::find_if(networks.begin(), networks.end(),
                                          [&](const house::Network& n) { return n.id == p.network; });
        const house::Device* device = house.device(p.device);
        const house::Port* port = house.port({p.device, p.port});
        const bool isKnown = network != networks.end();
        out += csvRow({names.at(p.id), p.address, std::string(house::name(p.kind)), p.hardware,
                       device == nullptr ? p.device : device->label,
                       port == nullptr || port->label.empty() ? p.port : port->label,
                       isKnown ? network->label : p.network, isKnown ? network->prefix : "",
                       isKnown ? network->gateway : ""});
    }
    return out;
}

std::string labelsCsv(const house::House& house, const std::vector<fit::Label>& labels) {
    std::string out = csvRow({"code", "what", "where", "copies", "qr"});
    for (const fit::Label& l : labels)
        out += csvRow({l.code, l.what, l.where, std::to_string(l.copies), fit::qrTextOf(house, l)});
    return out;
}

} // namespace metrodos::job
