#!/usr/bin/env python3
"""measure-ratio.py FOLDER [RUNS]: what judging a folder of records takes against merely parsing the same files on all cores, in
turns: parsing, judging, parsing. Both programs of target/shipped; the medians and quartiles of time and of processor time."""
import os, resource, statistics, subprocess, sys, time
folder, runs = sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 12
PARSE = ['target/shipped/examples/parse_values', folder, str(os.cpu_count())]
JUDGE = ['target/shipped/bradawl', 'audit', folder, '--summary', '--no-policy']
def took(command):
    before, start = resource.getrusage(resource.RUSAGE_CHILDREN), time.time()
    subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return time.time() - start, after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
rows = []
for _ in range(runs):
    first, judged, second = took(PARSE), took(JUDGE), took(PARSE)
    parsed = [(a + b) / 2 for a, b in zip(first, second)]
    rows.append((parsed[0], judged[0], judged[0] / parsed[0], judged[1] / parsed[1]))
for name, values in zip(('parsing, s', 'judging, s', 'ratio of time', 'ratio of processor time'), zip(*rows)):
    low, middle, high = statistics.quantiles(values, n=4)
    print(f'{name}: {middle:.2f} ({low:.2f} to {high:.2f})')
