// Matters that can be settled in more than one sound way: what this job goes by. The first of each is what
// holds unless somebody says otherwise. How repeated runs become one figure is Measuring::summary (survey.h).
#pragma once

#include <array>
#include <string_view>

namespace metrodos::house {

/// What may reach a spot.
enum class Wiring {
    any,       ///< the cheapest that carries the need
    new_cable, ///< data cable everywhere, laid where there is none
    existing,  ///< nothing is laid
};
/// Which outlets a pair of mains adapters may sit in.
enum class MainsReach {
    any_outlet,   ///< tried and measured, the best is kept
    same_circuit, ///< of the same circuit, or none
};
/// What may lie between a mains adapter and the wall.
enum class StripUse {
    wall_only,
    plain_strip, ///< a strip without surge protection as well, with a warning
};
/// What 10GBASE-T may run on.
enum class TenGigabit {
    by_measurement, ///< runs that are there as long as they are measured to carry it
    category_6a,    ///< category 6A and better only
};
/// Which class of adapter is bought.
enum class AdapterChoice {
    by_need, ///< the cheapest that carries the need
    highest, ///< the highest that the way can take, for later
};
/// When adapters are given a key of their own.
enum class PairingChoice {
    at_once,
    as_it_comes, ///< left as they join each other out of the box
};
/// Who sees to it that an address stays.
enum class AddressChoice {
    reserved, ///< the router, where it can
    fixed,    ///< the host, outside the automatic pool
};
/// What is tested first.
enum class TestPlace {
    inside,  ///< the way inside the house; the service by itself
    service, ///< over the service, as the client sees it
};

struct Practices {
    Wiring wiring = Wiring::any;
    MainsReach mainsReach = MainsReach::any_outlet;
    StripUse strips = StripUse::wall_only;
    TenGigabit tenGigabit = TenGigabit::by_measurement;
    AdapterChoice adapters = AdapterChoice::by_need;
    PairingChoice pairing = PairingChoice::at_once;
    AddressChoice addresses = AddressChoice::reserved;
    TestPlace testPlace = TestPlace::inside;

    friend bool operator==(const Practices&, const Practices&) = default;
};

/// Calls visit(key, member, words) for each: its key in files, and the words of its options in the order of
/// the enumeration.
template <typename Self, typename Visit>
void eachPractice(Self& practices, Visit&& visit) {
    using Words = std::string_view;
    visit("wiring", practices.wiring, std::array<Words, 3>{"any", "new_cable", "existing"});
    visit("mains_reach", practices.mainsReach, std::array<Words, 2>{"any_outlet", "same_circuit"});
    visit("strips", practices.strips, std::array<Words, 2>{"wall_only", "plain_strip"});
    visit("ten_gigabit", practices.tenGigabit, std::array<Words, 2>{"by_measurement", "category_6a"});
    visit("adapters", practices.adapters, std::array<Words, 2>{"by_need", "highest"});
    visit("pairing", practices.pairing, std::array<Words, 2>{"at_once", "as_it_comes"});
    visit("addresses", practices.addresses, std::array<Words, 2>{"reserved", "fixed"});
    visit("test_place", practices.testPlace, std::array<Words, 2>{"inside", "service"});
}

} // namespace metrodos::house
