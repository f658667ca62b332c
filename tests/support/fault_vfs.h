// A file system for SQLite that fails on order, and loses what was not flushed when its power is cut: a shim
// over the usual one (https://www.sqlite.org/vfs.html). What SQLite writes reaches the real file at once, as
// a page cache would have it; what a cut leaves is worked out from what was flushed and some of the rest.
#pragma once

#include <algorithm>
#include <cstring>
#include <fstream>
#include <map>
#include <random>
#include <sqlite3.h>
#include <string>
#include <vector>

namespace metrodos::testing {

class FaultVfs {
  public:
    static FaultVfs& get() {
        static FaultVfs vfs;
        return vfs;
    }

    /// What there is has been flushed; the next steps are counted from 0, and nothing fails.
    void reset() {
        for (auto& [path, file] : m_files) {
            file.isDurable = std::ifstream(path).good();
            file.durable = contents(path);
            file.pending.clear();
        }
        m_steps = 0;
        m_cutAt = m_failAt = -1;
        m_isOff = false;
    }
    [[nodiscard]] long steps() const { return m_steps; }
    /// The power goes at this step, before what it does is done.
    void cutAt(long step) { m_cutAt = step; }
    /// This step fails once; a write is done in half before.
    void failAt(long step, int code) {
        m_failAt = step;
        m_failCode = code;
    }
    [[nodiscard]] bool isOff() const { return m_isOff; }

    /// The disk as a cut leaves it: of what was not flushed any part, in any order, torn at sectors of 512
    /// bytes. Then the power is there again.
    void leaveAsCut(std::mt19937& random) {
        for (auto& [path, file] : m_files) {
            std::string bytes = file.durable;
            bool exists = file.isDurable;
            std::vector<Change> some = file.pending;
            std::shuffle(some.begin(), some.end(), random);
            for (const Change& c : some) {
                if (random() % 2 == 0) continue;
                if (c.kind == Change::made) exists = true;
                if (c.kind == Change::removed) exists = false;
                if (c.kind == Change::truncated) bytes.resize(c.offset);
                if (c.kind != Change::written) continue;
                for (std::size_t at = 0; at < c.bytes.size();) {
                    const std::size_t sector = 512 - (c.offset + at) % 512;
                    const std::size_t length = std::min(sector, c.bytes.size() - at);
                    if (random() % 8 != 0) {
                        if (bytes.size() < c.offset + at + length) bytes.resize(c.offset + at + length);
                        bytes.replace(c.offset + at, length, c.bytes, at, length);
                    }
                    at += length;
                }
            }
            if (exists)
                std::ofstream(path, std::ios::binary | std::ios::trunc) << bytes;
            else
                std::remove(path.c_str());
        }
        reset();
    }

  private:
    struct Change {
        enum Kind { made, written, truncated, removed } kind;
        std::size_t offset = 0;
        std::string bytes = {};
    };
    struct State {
        std::string durable;
        bool isDurable = false; // its name
        std::vector<Change> pending;
    };
    struct File {
        sqlite3_file base;
        State* state;
        const char* path;
        sqlite3_file* real;
    };

    FaultVfs() {
        m_real = sqlite3_vfs_find(nullptr);
        m_vfs = *m_real;
        m_vfs.zName = "fault";
        m_vfs.szOsFile = static_cast<int>(sizeof(File)) + m_real->szOsFile;
        m_vfs.pNext = nullptr;
        m_vfs.xOpen = &FaultVfs::open;
        m_vfs.xDelete = &FaultVfs::remove;
        m_vfs.xAccess = [](sqlite3_vfs*, const char* path, int flags, int* out) {
            return get().m_real->xAccess(get().m_real, path, flags, out);
        };
        m_methods.iVersion = 1; // no memory maps
        m_methods.xClose = [](sqlite3_file* f) {
            return real(f)->pMethods == nullptr ? SQLITE_OK : real(f)->pMethods->xClose(real(f));
        };
        m_methods.xRead = [](sqlite3_file* f, void* to, int amount, sqlite3_int64 offset) {
            if (const int failed = get().step(SQLITE_IOERR_READ)) return failed;
            return real(f)->pMethods->xRead(real(f), to, amount, offset);
        };
        m_methods.xWrite = &FaultVfs::write;
        m_methods.xTruncate = [](sqlite3_file* f, sqlite3_int64 size) {
            if (const int failed = get().step(SQLITE_IOERR_TRUNCATE)) return failed;
            state(f).pending.push_back({Change::truncated, static_cast<std::size_t>(size)});
            return real(f)->pMethods->xTruncate(real(f), size);
        };
        m_methods.xSync = [](sqlite3_file* f, int) {
            if (const int failed = get().step(SQLITE_IOERR_FSYNC)) return failed;
            State& s = state(f);
            s.durable = contents(reinterpret_cast<File*>(f)->path);
            s.isDurable = true;
            s.pending.clear();
            return SQLITE_OK; // the real one need not wait for its disk
        };
        m_methods.xFileSize = [](sqlite3_file* f, sqlite3_int64* size) {
            return real(f)->pMethods->xFileSize(real(f), size);
        };
        m_methods.xLock = [](sqlite3_file* f, int level) { return real(f)->pMethods->xLock(real(f), level); };
        m_methods.xUnlock = [](sqlite3_file* f, int level) {
            return real(f)->pMethods->xUnlock(real(f), level);
        };
        m_methods.xCheckReservedLock = [](sqlite3_file* f, int* out) {
            return real(f)->pMethods->xCheckReservedLock(real(f), out);
        };
        m_methods.xFileControl = [](sqlite3_file* f, int op, void* arg) {
            return real(f)->pMethods->xFileControl(real(f), op, arg);
        };
        m_methods.xSectorSize = [](sqlite3_file*) { return 512; };
        m_methods.xDeviceCharacteristics = [](sqlite3_file*) { return 0; }; // a disk that promises nothing
        sqlite3_vfs_register(&m_vfs, 1);
    }

    static sqlite3_file* real(sqlite3_file* f) { return reinterpret_cast<File*>(f)->real; }
    static State& state(sqlite3_file* f) { return *reinterpret_cast<File*>(f)->state; }
    static std::string contents(const std::string& path) {
        std::ifstream stream(path, std::ios::binary);
        return {std::istreambuf_iterator<char>(stream), {}};
    }

    // What the step ends with: nothing, or an error.
    int step(int code) {
        if (m_isOff) return code;
        const long now = m_steps++;
        if (now == m_cutAt) {
            m_isOff = true;
            return code;
        }
        if (now == m_failAt) return m_failCode;
        return SQLITE_OK;
    }

    static int open(sqlite3_vfs*, const char* path, sqlite3_file* f, int flags, int* outFlags) {
        FaultVfs& vfs = get();
        auto* file = reinterpret_cast<File*>(f);
        file->base.pMethods = nullptr;
        file->real = reinterpret_cast<sqlite3_file*>(file + 1);
        if (const int failed = vfs.step(SQLITE_CANTOPEN)) return failed;
        // Names of temporary files are SQLite's own; jobs have none.
        const std::string name = path == nullptr ? std::string() : std::string(path);
        const bool isNew = vfs.m_files.find(name) == vfs.m_files.end();
        State& s = vfs.m_files[name];
        int was = 0;
        if (path != nullptr) (void)vfs.m_real->xAccess(vfs.m_real, path, SQLITE_ACCESS_EXISTS, &was);
        if (isNew && was != 0) {
            s.durable = contents(name);
            s.isDurable = true;
        }
        if (was == 0) s.pending.push_back({Change::made});
        const int result = vfs.m_real->xOpen(vfs.m_real, path, file->real, flags, outFlags);
        if (result != SQLITE_OK) return result;
        file->state = &s;
        file->path = path;
        file->base.pMethods = &vfs.m_methods;
        return SQLITE_OK;
    }
    static int write(sqlite3_file* f, const void* from, int amount, sqlite3_int64 offset) {
        FaultVfs& vfs = get();
        const bool isHalf = !vfs.m_isOff && vfs.m_steps == vfs.m_failAt;
        const int failed = vfs.step(SQLITE_IOERR_WRITE);
        if (failed != SQLITE_OK && !isHalf) return failed;
        const int length = isHalf ? amount / 2 : amount;
        state(f).pending.push_back(
            {Change::written, static_cast<std::size_t>(offset),
             std::string(static_cast<const char*>(from), static_cast<std::size_t>(length))});
        const int result = real(f)->pMethods->xWrite(real(f), from, length, offset);
        return failed != SQLITE_OK ? failed : result;
    }
    static int remove(sqlite3_vfs*, const char* path, int isFlushed) {
        FaultVfs& vfs = get();
        if (const int failed = vfs.step(SQLITE_IOERR_DELETE)) return failed;
        const int result = vfs.m_real->xDelete(vfs.m_real, path, 0);
        State& s = vfs.m_files[path];
        if (isFlushed != 0) {
            s = {};
        } else {
            s.pending.push_back({Change::removed});
        }
        return result;
    }

    sqlite3_vfs* m_real = nullptr;
    sqlite3_vfs m_vfs{};
    sqlite3_io_methods m_methods{};
    std::map<std::string, State> m_files;
    long m_steps = 0;
    long m_cutAt = -1;
    long m_failAt = -1;
    int m_failCode = SQLITE_IOERR;
    bool m_isOff = false;
};

} // namespace metrodos::testing
