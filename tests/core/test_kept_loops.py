"""What is read beforehand: in a process of its own, as it is for those that are forked."""

import subprocess
import sys

LOOK = """
import os
from importlib import import_module
from noble_clay.core.heavy import HEAVY
for name in HEAVY[:-1]:
    import_module(name)
threads = len(os.listdir("/proc/self/task"))
kept_loops = import_module(HEAVY[-1])
begun = len(os.listdir("/proc/self/task")) - threads
from noble_clay.core.warm import warm_distances, warm_soft_lists
warm_distances(), warm_soft_lists()
called = [loop for loop in kept_loops.loops() if loop.overloads]
late = [loop.__name__ for loop in called if loop.stats.cache_hits or loop.stats.cache_misses]
print(begun, len(called), late)
"""


def test_a_process_that_has_read_what_is_kept_reads_and_compiles_nothing_when_it_works():
    done = subprocess.run([sys.executable, "-c", LOOK], capture_output=True, text=True, check=True)
    begun, called, late = done.stdout.splitlines()[-1].split(" ", 2)
    assert begun == "0", "a thread was begun: none of those that are forked would have it"
    assert int(called) > 60
    assert late == "[]"


FORK = """
import os
from noble_clay.core.field.blocks import in_threads
assert list(in_threads(abs, [-1, -2, -3])) == [1, 2, 3]
child = os.fork()
if child == 0:
    os._exit(0 if list(in_threads(abs, [-4, -5])) == [4, 5] else 1)
print(os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]))
"""


def test_a_process_that_is_forked_from_one_that_had_threads_has_threads_of_its_own():
    done = subprocess.run([sys.executable, "-c", FORK], capture_output=True, text=True, check=True, timeout=60)
    assert done.stdout.strip() == "0"
