// A message from a peer that has the key, or pretends to; and what people type or a camera reads.
#include "benchmark/run_json.h"
#include "probe/channel.h"
#include "probe/guest_messages.h"
#include "probe/invitation.h"
#include "probe/message.h"

#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    if (const auto invitation = metrodos::probe::Invitation::parse(text))
        if (metrodos::probe::Invitation::parse(invitation->text()) != *invitation) __builtin_trap();
    if (const auto code = metrodos::probe::MeetingCode::parse(text))
        if (metrodos::probe::MeetingCode::parse(code->words()) != *code) __builtin_trap();
    const auto message = metrodos::probe::parseMessage(text);
    if (!message) return 0;
    (void)metrodos::probe::readTask(*message);
    (void)metrodos::probe::readTarget(*message);
    (void)metrodos::probe::readProblem(*message);
    (void)metrodos::probe::readGuestState(*message);
    (void)metrodos::probe::readGuestOrder(*message);
    (void)metrodos::benchmark::sampleFromJson(*message);
    (void)metrodos::benchmark::runFromJson(*message);
    return 0;
}
