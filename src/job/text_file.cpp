#include "job/text_file.h"

#include <fstream>

namespace metrodos::job {
namespace {

void append(std::string& out, char32_t c) {
    if (c < 0x80) {
        out += static_cast<char>(c);
    } else if (c < 0x800) {
        out += static_cast<char>(0xC0U | (c >> 6U));
        out += static_cast<char>(0x80U | (c & 0x3FU));
    } else if (c < 0x10000) {
        out += static_cast<char>(0xE0U | (c >> 12U));
        out += static_cast<char>(0x80U | ((c >> 6U) & 0x3FU));
        out += static_cast<char>(0x80U | (c & 0x3FU));
    } else {
        out += static_cast<char>(0xF0U | (c >> 18U));
        out += static_cast<char>(0x80U | ((c >> 12U) & 0x3FU));
        out += static_cast<char>(0x80U | ((c >> 6U) & 0x3FU));
        out += static_cast<char>(0x80U | (c & 0x3FU));
    }
}

// RFC 3629: no overlong forms, no surrogates, nothing above U+10FFFF.
bool isUtf8(std::string_view text) {
    for (std::size_t i = 0; i < text.size();) {
        const auto first = static_cast<unsigned char>(text[i]);
        const std::size_t more = first < 0x80 ? 0 : first >= 0xF0 ? 3 : first >= 0xE0 ? 2 : 1;
        if ((first >= 0x80 && first < 0xC2) || first > 0xF4 || i + more >= text.size() + (more == 0 ? 1 : 0))
            return false;
        char32_t value = more == 0 ? first : first & (0x3FU >> more);
        for (std::size_t k = 1; k <= more; ++k) {
            const auto next = static_cast<unsigned char>(text[i + k]);
            if ((next & 0xC0U) != 0x80) return false;
            value = value << 6U | (next & 0x3FU);
        }
        if ((more == 2 && value < 0x800) || (more == 3 && (value < 0x10000 || value > 0x10FFFF)) ||
            (value >= 0xD800 && value <= 0xDFFF))
            return false;
        i += more + 1;
    }
    return true;
}

std::string fromUtf16(std::string_view bytes, bool isBigEndian) {
    const auto unit = [&](std::size_t i) {
        const auto a = static_cast<unsigned char>(bytes[i]);
        const auto b = static_cast<unsigned char>(bytes[i + 1]);
        return static_cast<char32_t>(isBigEndian ? a << 8U | b : b << 8U | a);
    };
    constexpr char32_t unknown = 0xFFFD;
    std::string out;
    for (std::size_t i = 0; i + 1 < bytes.size(); i += 2) {
        char32_t c = unit(i);
        if (c >= 0xD800 && c < 0xDC00 && i + 3 < bytes.size() && unit(i + 2) >= 0xDC00 &&
            unit(i + 2) < 0xE000) {
            c = 0x10000 + ((c - 0xD800) << 10U) + (unit(i + 2) - 0xDC00);
            i += 2;
        } else if (c >= 0xD800 && c < 0xE000) {
            c = unknown;
        }
        append(out, c);
    }
    return out;
}

bool hasControls(std::string_view text) {
    for (const char c : text)
        if (static_cast<unsigned char>(c) < 0x20 && c != '\t' && c != '\n' && c != '\r' && c != '\f')
            return true;
    return false;
}

} // namespace

quantity::Result<PlainText> plainText(std::string_view bytes) {
    PlainText out;
    if (bytes.starts_with("\xEF\xBB\xBF")) bytes.remove_prefix(3);
    if (bytes.starts_with("\xFF\xFE") || bytes.starts_with("\xFE\xFF")) {
        out.text = fromUtf16(bytes.substr(2), bytes.front() == '\xFE');
        out.note = "the file is UTF-16 and was read as that";
    } else if (isUtf8(bytes)) {
        out.text = bytes;
    } else {
        for (const char c : bytes)
            append(out.text, static_cast<unsigned char>(c));
        out.note = "the file is not UTF-8 and was read as Latin-1; look at its letters with accents";
    }
    if (hasControls(out.text))
        return quantity::problem("this is no text", "", "save it as CSV in UTF-8 and take that");
    return out;
}

quantity::Result<PlainText> readTextFile(const std::filesystem::path& file, std::size_t most) {
    std::ifstream stream(file, std::ios::binary);
    if (!stream)
        return quantity::problem("the file cannot be read", file.string(), "check its name and rights");
    std::string bytes(most + 1, '\0');
    stream.read(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    bytes.resize(static_cast<std::size_t>(stream.gcount()));
    if (bytes.size() > most)
        return quantity::problem("the file is larger than " + std::to_string(most / 1024 / 1024) + " MB",
                                 file.string(), "split it");
    auto text = plainText(bytes);
    if (!text) {
        quantity::Problem fault = text.error();
        fault.where = file.string();
        return tl::unexpected(fault);
    }
    return text;
}

} // namespace metrodos::job
