// Tables, price books, uses in words and lines of fast entry: what is taken must be a sound house, and a
// table of it must give it back.
#include "catalog/load.h"
#include "house/findings.h"
#include "house/validate.h"
#include "job/csv.h"
#include "job/entry_line.h"
#include "job/price_book_csv.h"
#include "weigh/need.h"

#include <string_view>

using namespace metrodos;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    static const catalog::Catalog classes = catalog::loadDefault().value();
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    if (const auto house = job::withCsv({}, text)) {
        if (!house::validate(*house).empty()) __builtin_trap();
        const auto again = job::withCsv({}, job::toCsv(*house));
        if (!again || again->rooms.size() != house->rooms.size()) __builtin_trap();
        (void)house::findings(*house);
    }
    if (const auto book = job::priceBookFrom(text, classes))
        if (!(job::priceBookFrom(job::toCsv(*book, classes), classes)->currency == book->currency))
            __builtin_trap();
    if (const auto uses = weigh::parseUses(text.substr(0, text.find('\n')), classes))
        if (!(weigh::parseUses(weigh::usesText(*uses, classes), classes).has_value())) __builtin_trap();
    // Line by line, each on what the ones before made.
    house::House typed;
    std::size_t lines = 0;
    for (std::size_t from = 0; from < text.size() && lines < 12; ++lines) {
        const std::size_t to = std::min(text.find('\n', from), text.size());
        const std::string_view line = text.substr(from, to - from);
        (void)job::completions(typed, classes, line);
        if (auto next = job::enterLine(typed, classes, line)) typed = std::move(next->house);
        from = to + 1;
    }
    if (!house::validate(typed).empty()) __builtin_trap();
    return 0;
}
