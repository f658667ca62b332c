// Files that somebody hands over: a job file as bytes, a package, a document that was kept. Whatever they
// are, they are read or refused, and not a byte of them changes.
#include "job/kept_document.h"
#include "job/open.h"
#include "job/store.h"
#include "job/text_file.h"
#include "job/zip_archive.h"

#include <cstdlib>
#include <fstream>
#include <sys/mman.h>
#include <unistd.h>

using namespace metrodos;

namespace {

// A file in memory: the disk would be most of the time.
std::string fileOf(const std::uint8_t* data, std::size_t size) {
    static const int fd = ::memfd_create("fuzzed", 0);
    if (::ftruncate(fd, 0) != 0 || ::pwrite(fd, data, size, 0) != static_cast<ssize_t>(size)) std::abort();
    return "/proc/self/fd/" + std::to_string(fd);
}

std::string bytesOf(const std::string& file) {
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) { // NOLINT(readability-*)
    const std::string_view bytes(reinterpret_cast<const char*>(data), size);
    (void)job::plainText(bytes);
    (void)job::readKept({1, "document", std::string(bytes)});
    if (job::isZip(bytes)) (void)job::zipEntry(bytes, "job.json", 1'000'000);
    const std::string file = fileOf(data, size);
    if (const auto store = job::Store::open(file, job::Store::Mode::readOnly)) {
        (void)store->runs();
        (void)store->reports();
        (void)store->document();
    }
    (void)job::readJob(file);
    if (bytesOf(file) != bytes) std::abort();
    return 0;
}
