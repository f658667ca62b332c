// Loaded before a program (LD_PRELOAD): one call of the system fails when it is ordered to, all others go on
// to the C library.
#include "support/failing_calls.h"

#include <cerrno>
#include <cstdlib>
#include <dlfcn.h>
#include <fcntl.h>
#include <poll.h>
#include <pthread.h>
#include <sys/mman.h>
#include <sys/socket.h>
#include <unistd.h>

namespace {

using metrodos::testing::CallOrders;
using metrodos::testing::SystemCall;

CallOrders* orders() {
    static CallOrders* const mapped = []() -> CallOrders* {
        const char* file = std::getenv(metrodos::testing::callOrdersVariable);
        if (file == nullptr) return nullptr;
        const int fd = ::open(file, O_RDWR | O_CLOEXEC);
        if (fd < 0) return nullptr;
        void* at = ::mmap(nullptr, sizeof(CallOrders), PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0);
        ::close(fd);
        return at == MAP_FAILED ? nullptr : static_cast<CallOrders*>(at);
    }();
    return mapped;
}

// The error that this call is to fail with; 0: none.
int ordered(SystemCall call) {
    CallOrders* const o = orders();
    if (o == nullptr) return 0;
    o->counts[static_cast<std::size_t>(call)].fetch_add(1);
    if (o->failing.load() != static_cast<int>(call) || o->left.fetch_sub(1) != 0) return 0;
    o->happened.fetch_add(1);
    return o->error.load();
}

template <typename Function>
Function next(const char* name) {
    return reinterpret_cast<Function>(::dlsym(RTLD_NEXT, name));
}

} // namespace

// Defines `name` with these parameters: fails as ordered, or does what the C library does.
#define FAILING(result, name, call, parameters, arguments)                                                   \
    extern "C" result name parameters {                                                                      \
        if (const int error = ordered(SystemCall::call); error != 0) {                                       \
            errno = error;                                                                                   \
            return -1;                                                                                       \
        }                                                                                                    \
        static const auto real = next<result(*) parameters>(#name);                                          \
        return real arguments;                                                                               \
    }

FAILING(int, socket, socketMade, (int a, int b, int c), (a, b, c))
FAILING(int, accept4, accepted, (int fd, sockaddr* a, socklen_t* l, int f), (fd, a, l, f))
FAILING(int, bind, bound, (int fd, const sockaddr* a, socklen_t l), (fd, a, l))
FAILING(int, listen, listened, (int fd, int n), (fd, n))
FAILING(int, connect, connected, (int fd, const sockaddr* a, socklen_t l), (fd, a, l))
FAILING(int, getsockname, named, (int fd, sockaddr* a, socklen_t* l), (fd, a, l))
FAILING(int, getpeername, named, (int fd, sockaddr* a, socklen_t* l), (fd, a, l))
FAILING(int, setsockopt, optionSet, (int fd, int l, int n, const void* v, socklen_t s), (fd, l, n, v, s))
FAILING(int, shutdown, shut, (int fd, int how), (fd, how))
FAILING(int, poll, waited, (pollfd * items, nfds_t n, int limit), (items, n, limit))
FAILING(ssize_t, send, sent, (int fd, const void* b, size_t n, int f), (fd, b, n, f))
FAILING(ssize_t, sendto, sent, (int fd, const void* b, size_t n, int f, const sockaddr* a, socklen_t l),
        (fd, b, n, f, a, l))
FAILING(ssize_t, sendmsg, sent, (int fd, const msghdr* m, int f), (fd, m, f))
FAILING(ssize_t, recv, received, (int fd, void* b, size_t n, int f), (fd, b, n, f))
FAILING(ssize_t, recvfrom, received, (int fd, void* b, size_t n, int f, sockaddr* a, socklen_t* l),
        (fd, b, n, f, a, l))
FAILING(ssize_t, recvmsg, received, (int fd, msghdr* m, int f), (fd, m, f))
FAILING(ssize_t, read, read, (int fd, void* b, size_t n), (fd, b, n))
FAILING(ssize_t, write, written, (int fd, const void* b, size_t n), (fd, b, n))

extern "C" int pthread_create(pthread_t* thread, const pthread_attr_t* how, void* (*what)(void*),
                              void* with) {
    if (const int error = ordered(SystemCall::threadMade); error != 0) return error;
    static const auto real =
        next<int (*)(pthread_t*, const pthread_attr_t*, void* (*)(void*), void*)>("pthread_create");
    return real(thread, how, what, with);
}
