// What the judgement of runs reckons with, each with its reason. What is known of elements themselves, their
// beliefs, faults and signs, stands in data/catalog.
#pragma once

#include <cstddef>

namespace metrodos::trace {

// What a run shows of a ceiling; shares of it.

/// A run exceeds what a port carries by no more than the error of the clock that cuts its samples.
inline constexpr double aboveCeiling = 0.006;
/// Several streams keep a queue filled; what they leave is the gaps between a loss and its repair.
inline constexpr double belowCeiling = 0.025;
/// One stream backs off by 0.3 and climbs again (RFC 9438, 4.6), over a queue that hides most of it.
inline constexpr double belowWithOne = 0.07;
/// Of a medium's variation from second to second so much is left in the mean of a run of some seconds: slow
/// drifts do not average out as independent seconds would.
inline constexpr double variationLeft = 0.6;
/// Of the mean of a run over a steady element, in ln.
inline constexpr double runError = 0.01;
/// What a PHY rate says of goodput, in ln: rounding, and frames that come again.
inline constexpr double phyError = 0.17;

/// Share of segments sent again above which loss holds a stream back in a house: below, cubic fills its links
/// (RFC 9438).
inline constexpr double lossFrom = 1e-4;
/// s: a run that was stopped before has not got up to speed, even over a long delay.
inline constexpr double rampUpSeconds = 2;
/// An interface counts headers as well, so that it never counts less than the payload that crossed it; below
/// this share of it the bytes went elsewhere. Below so many bytes what else the machine sends would decide.
inline constexpr double crossedFrom = 0.9;
inline constexpr double leastCounted = 1e5;

// From when on a run has a sign.

/// The loaded delay has risen when it lies above the idle one by this share and by so many microseconds:
/// below both it is the scheduling of the machines.
inline constexpr double risesFrom = 0.15;
inline constexpr double risesFromUs = 150;
/// A window or a buffer held the sender back: this share of the time at least (tcp_info busy times).
inline constexpr double heldFrom = 0.5;
/// Standard deviation ÷ mean of whole seconds: a wire stays below the one, a radio or mains channel goes
/// above the other; between them nothing is said.
inline constexpr double steadyBelow = 0.03;
inline constexpr double unsteadyFrom = 0.05;
/// Where as many unsteady runs lie below as steady ones above, and how sharply: a wire's seconds differ by
/// some thousandths, those of radio and mains by a tenth.
inline constexpr double unsteadyAt = 0.025;
inline constexpr double unsteadySharpness = 2;
/// The same of segments sent again: overflowing queues make some in a hundred thousand, a lossy way some in a
/// thousand.
inline constexpr double resentAt = 2e-4;
inline constexpr double resentSharpness = 1.5;
/// s of a run from which on a step of its rate can be told.
inline constexpr double leastForSteps = 4;
/// The last level of a rate that fell, as a share of its first.
inline constexpr double fallsBelow = 0.85;
/// bit/s: less is nothing but what opens a connection.
inline constexpr double stalledBelow = 1e3;
/// Payload of a segment of 1500 bytes with IPv4 and timestamps.
inline constexpr double segmentBytes = 1448;
/// Within this share of a port's goodput a run is as fast as that port.
inline constexpr double nearRate = 0.02;
/// Above a port's goodput by this factor no run can be: it crossed something else.
inline constexpr double impossible = 1.02;
/// One direction below this share of the other is far slower.
inline constexpr double farBelow = 0.5;
/// Several streams above one by this factor: one stream was held by its window.
inline constexpr double manyOverOne = 1.3;

// The sampler.

/// Of the runs so many are not what they were taken for: another cable, another route.
inline constexpr double outlierPrior = 0.001;
/// Those may show any rate: 1 / ln(10 Gbit/s ÷ 1 kbit/s).
inline constexpr double outlierDensity = 0.06;
/// Standard deviations beyond which nothing is looked for: 2e-9 of a normal distribution.
inline constexpr double maxDeviations = 6;
/// Standard deviations on both sides that an evenly filled window stands for.
inline constexpr double windowDeviations = 1.5;
/// Below this share of effective particles they are drawn anew. Later would lose those that a coming run
/// speaks for, earlier adds noise by drawing.
inline constexpr double redrawBelow = 0.4;
/// Power to which likelihoods are raised where a particle chooses what held a run, and where particles are
/// drawn anew; their weights make up for it. 1 loses what is unlikely at first, 0 spends most particles on
/// what cannot be.
inline constexpr double evenness = 0.5;
/// Ceilings this close in ln are equal: both hold.
inline constexpr double sameCeiling = 0.01;
/// ln(100 Gbit/s): the rate of a route that nothing is in the way of.
inline constexpr double noLimit = 25.3285;
/// Streams of a question that does not say how many.
inline constexpr int usualStreams = 4;

// Proposing tests, and what is told.

/// Outcomes closer than this in ln tell nothing apart for somebody who reads them.
inline constexpr double outcomeWidth = 0.08;
/// A test that is expected to give fewer bits than this, or a smaller share of the doubt there is, is not
/// worth naming: with a thousand particles the estimate is good to some hundredths of a bit.
inline constexpr double minBits = 0.07;
inline constexpr double minShareOfDoubt = 0.14;
/// Minutes that any test costs besides its own: to read, to go and to come back.
inline constexpr double overheadMinutes = 1;
inline constexpr std::size_t maxTests = 5;
/// Suspects below this probability are not named, changes of it smaller than that are not told.
inline constexpr double minProbability = 0.005;
inline constexpr double minChange = 0.02;
/// From this probability on no test is proposed.
inline constexpr double certainFrom = 0.96;

} // namespace metrodos::trace
