#include "job/zip_archive.h"

#include <memory>
#include <zip.h>

namespace metrodos::job {
namespace {

struct Discard {
    void operator()(zip_t* archive) const { zip_discard(archive); }
    void operator()(zip_source_t* source) const { zip_source_free(source); }
    void operator()(zip_file_t* file) const { zip_fclose(file); }
};
using Archive = std::unique_ptr<zip_t, Discard>;
using Source = std::unique_ptr<zip_source_t, Discard>;
using Entry = std::unique_ptr<zip_file_t, Discard>;

quantity::Problem notWritten() {
    return {"the archive cannot be written", "", "free memory and try again"};
}

} // namespace

quantity::Result<std::string> zipOf(const std::vector<ZipEntry>& entries) {
    zip_error_t error;
    zip_error_init(&error);
    const Source kept(zip_source_buffer_create(nullptr, 0, 0, &error));
    if (!kept) return tl::unexpected(notWritten());
    zip_source_keep(kept.get()); // the archive has one hold of it, we have the other
    Archive archive(zip_open_from_source(kept.get(), ZIP_TRUNCATE, &error));
    if (!archive) {
        zip_source_free(kept.get());
        return tl::unexpected(notWritten());
    }
    for (const ZipEntry& entry : entries) {
        Source body(zip_source_buffer(archive.get(), entry.body.data(), entry.body.size(), 0));
        if (!body || zip_file_add(archive.get(), entry.name.c_str(), body.get(),
                                  ZIP_FL_ENC_UTF_8 | ZIP_FL_OVERWRITE) < 0)
            return tl::unexpected(notWritten());
        (void)body.release(); // the archive's now
    }
    if (zip_close(archive.get()) != 0) return tl::unexpected(notWritten());
    (void)archive.release(); // closing has freed it
    zip_stat_t size;
    zip_stat_init(&size);
    if (zip_source_stat(kept.get(), &size) != 0 || zip_source_open(kept.get()) != 0)
        return tl::unexpected(notWritten());
    std::string out(size.size, '\0');
    const zip_int64_t got = zip_source_read(kept.get(), out.data(), out.size());
    zip_source_close(kept.get());
    if (got < 0 || static_cast<std::size_t>(got) != out.size()) return tl::unexpected(notWritten());
    return out;
}

bool isZip(std::string_view bytes) {
    return bytes.starts_with("PK\x03\x04");
}

quantity::Result<std::string> zipEntry(std::string_view bytes, const std::string& name, std::size_t most) {
    zip_error_t error;
    zip_error_init(&error);
    Source source(zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error));
    Archive archive(source ? zip_open_from_source(source.get(), ZIP_RDONLY | ZIP_CHECKCONS, &error)
                           : nullptr);
    if (!archive) return quantity::problem("this is no sound archive", "", "copy or export it again");
    (void)source.release(); // the archive's now
    zip_stat_t stat;
    zip_stat_init(&stat);
    if (zip_stat(archive.get(), name.c_str(), 0, &stat) != 0)
        return quantity::problem("the archive has no “" + name + "”", "",
                                 "choose one that was exported whole");
    if ((stat.valid & ZIP_STAT_SIZE) == 0 || stat.size > most)
        return quantity::problem("“" + name + "” of the archive is too large", "",
                                 "choose one that was exported whole");
    const Entry file(zip_fopen(archive.get(), name.c_str(), 0));
    std::string out(stat.size, '\0');
    // One byte more than announced shows an entry that lies about its size.
    char beyond = 0;
    if (!file || zip_fread(file.get(), out.data(), out.size()) != static_cast<zip_int64_t>(out.size()) ||
        zip_fread(file.get(), &beyond, 1) != 0)
        return quantity::problem("“" + name + "” of the archive is damaged", "", "copy or export it again");
    return out;
}

} // namespace metrodos::job
