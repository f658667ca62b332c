// Agents on loopback that wait for a meeting, or serve the page of a guest.
#pragma once

#include "probe/guest_door.h"
#include "probe/meeting.h"
#include "support/agents.h"

#include <QTemporaryDir>
#include <QTest>
#include <mutex>

namespace metrodos::testing {

/// An agent that waits for a meeting, and what it told.
struct MeetingAgent {
    QTemporaryDir folder; // of its keys
    std::shared_ptr<AgentKeys> store = AgentKeys::open({{}, folder.filePath("keys").toStdString()}).value();
    std::shared_ptr<KeyRing> keys = store->ring();
    std::mutex mutex;
    std::vector<MeetingCode> shown;
    std::vector<std::string> met; // the four words
    std::vector<std::string> controllers;
    std::vector<Key> kept;
    bool canKeep = true;
    std::unique_ptr<Agent> agent;
    std::string address;

    explicit MeetingAgent(std::chrono::seconds lifetime = std::chrono::seconds(60)) {
        MeetingDesk desk;
        desk.show = [this](const MeetingCode& code) {
            const std::lock_guard lock(mutex);
            shown.push_back(code);
        };
        desk.met = [this](const std::string& words, const std::string& controller) {
            const std::lock_guard lock(mutex);
            met.push_back(words);
            controllers.push_back(controller);
        };
        desk.keep = [this](const Key& key, const std::string& controller) -> quantity::Result<void> {
            const std::lock_guard lock(mutex);
            if (!canKeep) return quantity::problem("the disk is full", "", "make room");
            kept.push_back(key);
            return store->keep({key, Right::command, controller});
        };
        desk.lifetime = lifetime;
        AgentSettings settings{"127.0.0.1:0", "cellar box", keys, {}};
        settings.kept = store;
        settings.meeting = std::make_shared<Meeting>(keys, desk);
        agent = Agent::start(settings, [](const PeerFilter& filter) {
                    return makePerformer("cellar box", filter);
                }).value();
        address = agent->address().text();
        settings.meeting->open();
    }
    std::size_t codes() {
        const std::lock_guard lock(mutex);
        return shown.size();
    }
    MeetingCode code() {
        while (codes() == 0)
            QTest::qWait(2);
        const std::lock_guard lock(mutex);
        return shown.back();
    }
};

/// An agent that takes devices with a browser.
struct GuestedAgent {
    Key key = Key::generate();
    std::shared_ptr<GuestDoor> door;
    std::unique_ptr<Agent> agent;
    std::string address;

    GuestedAgent() {
        GuestSettings guests;
        guests.listen = "127.0.0.1:0";
        door = std::make_shared<GuestDoor>(guests);
        AgentSettings settings{"127.0.0.1:0", "the other machine", ringOf(key), {}, door};
        agent = Agent::start(settings, [](const PeerFilter& filter) {
                    return makePerformer("the other machine", filter);
                }).value();
        address = agent->address().text();
    }
};

} // namespace metrodos::testing
