"""The printer's stand-in: layers in their time, pausing, stopping, the end."""

import pytest

from noble_clay.core.printing.run import Run


def test_layers_take_their_time():
    run = Run([10.0, 20.0, 5.0], speed=2)
    seen = []
    for _ in range(8):
        run.go_on(2.5)
        seen.append((run.printed, run.layer, run.state))
    assert seen[:3] == [(5, 0, "printing"), (10, 1, "printing"), (15, 1, "printing")]
    assert seen[5] == (30, 2, "printing")
    assert seen[6:] == [(35, 2, "done")] * 2
    assert run.values()["share"] == 1
    assert run.values()["left"] == 0


def test_time_stands_still_while_it_is_paused_and_ends_when_it_is_stopped():
    run = Run([10.0] * 5, speed=1)
    run.resume()
    assert run.state == "printing"
    run.go_on(12)
    run.pause()
    run.go_on(100)
    assert (run.printed, run.state) == (12, "paused")
    run.resume()
    run.go_on(1)
    assert run.printed == 13
    run.stop()
    run.resume()
    run.go_on(5)
    assert (run.printed, run.state, run.over) == (13, "stopped", True)


@pytest.mark.parametrize("layers", [[], [0.0]])
def test_nothing_to_print_is_done_at_once(layers):
    run = Run(layers, speed=1)
    run.go_on(0.1)
    assert run.state == "done"
    assert run.values()["share"] == 1
