"""What is read beforehand: in a process of its own, as it is for those that are forked."""

import importlib
import pkgutil
import subprocess
import sys

from numba.core.dispatcher import Dispatcher

import noble_clay.core

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
from noble_clay.core.field.threads import in_threads
assert list(in_threads(abs, [-1, -2, -3])) == [1, 2, 3]
child = os.fork()
if child == 0:
    os._exit(0 if list(in_threads(abs, [-4, -5])) == [4, 5] else 1)
print(os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]))
"""


def test_a_process_that_is_forked_from_one_that_had_threads_has_threads_of_its_own():
    done = subprocess.run([sys.executable, "-c", FORK], capture_output=True, text=True, check=True, timeout=60)
    assert done.stdout.strip() == "0"


NEW = """
import numpy as np
from numba import njit
from noble_clay.core.mesh import triangle_set
from noble_clay.core import kept_loops
place = triangle_set._place
assert place.overloads, "nothing was kept"
caller = njit(lambda number, table: place(number, table))
print(caller(np.uint64(6), np.zeros(4, dtype=np.uint64)))
"""


def test_what_is_compiled_later_can_call_what_was_read_beforehand():
    done = subprocess.run([sys.executable, "-c", NEW], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "2"


def test_nothing_is_left_to_be_compiled_at_its_first_call():
    cold = []
    for found in pkgutil.walk_packages(noble_clay.core.__path__, "noble_clay.core."):
        if found.name.endswith("kept_loops"):
            continue
        for name, loop in vars(importlib.import_module(found.name)).items():
            if isinstance(loop, Dispatcher) and loop.py_func.__module__ == found.name:
                index = loop._cache._cache_file._load_index()
                cold += [] if index else [f"{found.name}.{name}"]
    assert cold == []
