// A file of its own in a folder that the owner of the machine has named, gone when this is.
#pragma once

#include "probe/socket.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>

namespace metrodos::probe {

inline constexpr std::uint64_t smallestFile = 1'000'000;
inline constexpr std::uint64_t largestFile = 1'000'000'000'000;

class ScratchFile {
  public:
    /// A Problem where there is no such folder, it cannot be written, the size is none that is allowed, or
    /// less than that and a spare of 100 MB is free.
    [[nodiscard]] static quantity::Result<ScratchFile> make(const std::filesystem::path& folder,
                                                            std::uint64_t bytes);
    ScratchFile(ScratchFile&& other) noexcept;
    ScratchFile& operator=(ScratchFile&&) = delete;
    ~ScratchFile();

    [[nodiscard]] int fd() const { return m_fd.get(); }
    /// Share of the first `bytes` of it that are in this machine's memory (mincore); nothing where the kernel
    /// does not say.
    [[nodiscard]] std::optional<double> cachedShare(std::uint64_t bytes) const;
    /// Has the kernel let go of what is clean in memory.
    void dropCache() const;

  private:
    ScratchFile(std::string path, Fd fd);
    std::string m_path; // empty: moved from
    Fd m_fd;
};

} // namespace metrodos::probe
