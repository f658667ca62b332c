// What people type: rates, lengths, times, keys, addresses, filters; and what codes say.
#include "benchmark/run_filter.h"
#include "probe/key.h"
#include "probe/qr_code.h"
#include "probe/socket.h"
#include "quantity/ip_address.h"
#include "quantity/parse.h"

#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    if (const auto rate = metrodos::quantity::parseBitRate(text); rate && !(rate->bps() > 0))
        __builtin_trap();
    if (const auto length = metrodos::quantity::parseLength(text); length && !(length->inMetres() >= 0))
        __builtin_trap();
    (void)metrodos::quantity::parseDuration(text);
    if (const auto key = metrodos::probe::Key::parse(text);
        key && !(metrodos::probe::Key::parse(key->text()) == key))
        __builtin_trap();
    if (const auto read = metrodos::probe::Invitation::parse(text);
        read && !(metrodos::probe::Invitation::parse(read->text()) == read))
        __builtin_trap();
    (void)metrodos::probe::AddressRange::parse(text.substr(0, 40));
    if (const auto address = metrodos::quantity::IpAddress::parse(text);
        address && !(metrodos::quantity::IpAddress::parse(address->text()) == address))
        __builtin_trap();
    if (const auto prefix = metrodos::quantity::IpPrefix::parse(text);
        prefix && (!(metrodos::quantity::IpPrefix::parse(prefix->text()) == prefix) ||
                   !prefix->contains(prefix->firstHost()) || !prefix->contains(prefix->lastHost())))
        __builtin_trap();
    if (const auto hardware = metrodos::quantity::parseHardwareAddress(text);
        hardware && !(metrodos::quantity::parseHardwareAddress(*hardware) == hardware))
        __builtin_trap();
    (void)metrodos::quantity::hostOf(text);
    if (const auto filter = metrodos::benchmark::parseRunFilter(text))
        (void)filter->matches({"route", {}}, {});
    return 0;
}
