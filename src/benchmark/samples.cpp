#include "benchmark/samples.h"

#include <mutex>

namespace metrodos::benchmark {

struct Samples::Shared {
    std::once_flag once;
    Load load; // empty: `samples` are there
    std::vector<Sample> samples;
};

Samples::Samples(std::vector<Sample> samples) {
    if (samples.empty()) return;
    m_shared = std::make_shared<Shared>();
    m_shared->samples = std::move(samples);
}

Samples Samples::later(Load load) {
    Samples out;
    out.m_shared = std::make_shared<Shared>();
    out.m_shared->load = std::move(load);
    return out;
}

const std::vector<Sample>& Samples::all() const {
    static const std::vector<Sample> none;
    if (m_shared == nullptr) return none;
    if (m_shared->load) std::call_once(m_shared->once, [this] { m_shared->samples = m_shared->load(); });
    return m_shared->samples;
}

std::vector<Sample>& Samples::change() {
    if (m_shared == nullptr) {
        m_shared = std::make_shared<Shared>();
    } else if (m_shared.use_count() > 1 || m_shared->load) {
        auto own = std::make_shared<Shared>();
        own->samples = all();
        m_shared = std::move(own);
    }
    return m_shared->samples;
}

} // namespace metrodos::benchmark
