#!/usr/bin/env python3
"""Wall time of `bradawl audit RECORD` against `true`, in turn, in one run: what a process costs beyond any process."""
import os, statistics, subprocess, sys, time
here = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
bradawl = [os.path.join(here, 'target/shipped/bradawl'), 'audit', os.path.join(here, 'demo/mooring.json')]

def once(command):
    begun = time.perf_counter()
    subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)
    return (time.perf_counter() - begun) * 1000

runs = int(sys.argv[1]) if len(sys.argv) > 1 else 200
once(bradawl), once(['true'])
ours, floor = zip(*((once(bradawl), once(['true'])) for _ in range(runs)))
a, b = statistics.median(ours), statistics.median(floor)
print(f'audit of one record: {a:.2f} ms, true: {b:.2f} ms, difference {a - b:.2f} ms (medians of {runs})')
