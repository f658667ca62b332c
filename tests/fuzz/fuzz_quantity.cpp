// What people type: rates, lengths, times, keys, addresses; and what codes say.
#include "probe/key.h"
#include "probe/qr_code.h"
#include "probe/socket.h"
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
    return 0;
}
