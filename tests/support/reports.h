// One report of each kind.
#pragma once

#include "benchmark/copy_report.h"
#include "benchmark/matrix_report.h"
#include "benchmark/search_report.h"
#include "benchmark/transfer_report.h"
#include "benchmark/watch_report.h"

namespace metrodos::testing {

using namespace metrodos::benchmark;

inline const ReportHead head{true, "2024-05-01T10:00:00Z", "Study to Hub", "study-hub"};

inline WatchReport watchReport() {
    WatchReport r;
    r.head = head;
    r.seconds = 7200;
    r.measuredSeconds = 7000;
    r.sleptSeconds = 150;
    r.dropOuts = {{61, 2.5, ""}, {3700, 30.1, "the peer has gone"}};
    r.dropOutCount = 2;
    r.dropOutSeconds = 32.6;
    r.goodputP10 = BitRate::megabits(80);
    r.goodputP50 = BitRate::megabits(90);
    r.goodputP90 = BitRate::megabits(95);
    r.hours = {{3600, 80e6, 90e6, {}, 1, 2.5}, {3400, {}, {}, {}, 1, 30}};
    return r;
}

inline MatrixReport matrixReport() {
    MatrixReport r;
    r.head = head;
    r.names = {"Study", "Hub", "Loft"};
    for (const Pair pair : pairsOf(3)) {
        MatrixCell cell;
        cell.pair = pair;
        cell.summary.goodput = BitRate::megabits(941);
        cell.summary.low = BitRate::megabits(940);
        cell.summary.high = BitRate::megabits(942);
        cell.summary.runs = 3;
        r.cells.push_back(cell);
    }
    r.together = {{{0, 1}, BitRate::megabits(940), BitRate::megabits(470)},
                  {{2, 1}, BitRate::megabits(940), BitRate::megabits(471)}};
    return r;
}

inline SearchReport searchReport() {
    SearchReport r;
    r.head = head;
    r.direction = Direction::backward;
    r.acceptedLoss = 0.001;
    r.best = BitRate::megabits(212);
    r.failed = BitRate::megabits(214);
    r.trials = {{BitRate::megabits(500), BitRate::megabits(213), 0.574, false},
                {BitRate::megabits(212), BitRate::megabits(212), 0, true}};
    return r;
}

inline CopyReport copyReport() {
    CopyReport r;
    r.head = head;
    r.bytes = 2000000000;
    r.write = {BitRate::megabits(800), 20, {9e8, 8e8, 7e8}, {}};
    r.warm = {BitRate::megabits(9000), 1.8, {9e9}, 1.0};
    r.folder = "/mnt/store";
    r.network = BitRate::megabits(941);
    return r;
}

} // namespace metrodos::testing
