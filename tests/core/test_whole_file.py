"""Files are written whole or not at all, also where the disk has no room."""

import os
import resource
import subprocess
import sys

import pytest

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.whole_file import write_all_whole, write_whole
from tests.building import part, piece

ROOM = 20_000
BALL = piece(part("ball", "sphere", radius=10, facets=64))


def little_room():
    """No file of the process that follows may be larger: writing fails as on a disk that is full."""
    resource.setrlimit(resource.RLIMIT_FSIZE, (ROOM, ROOM))


def ran(folder, *arguments):
    command = [sys.executable, "-B", "-m", "noble_clay.cli", *arguments]
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, preexec_fn=little_room, check=False)


@pytest.mark.parametrize(
    "arguments",
    [("build", "ball.clay.json", "-o", "ball.stl"), ("repair", "old.stl", "-o", "ball.stl")],
    ids=["build", "repair"],
)
def test_without_room_a_file_is_as_it_was_and_the_words_say_so(tmp_path, arguments):
    (tmp_path / "ball.clay.json").write_text(BALL.text())
    whole = [sys.executable, "-m", "noble_clay.cli", "build", "ball.clay.json", "-o", "old.stl"]
    subprocess.run(whole, cwd=tmp_path, check=True, capture_output=True)
    (tmp_path / "ball.stl").write_bytes(b"as it was")
    done = ran(tmp_path, *arguments)
    assert done.returncode == 2
    assert "ball.stl" in done.stderr and "no room left on the disk" in done.stderr
    assert len(done.stderr.splitlines()) == 1
    assert (tmp_path / "ball.stl").read_bytes() == b"as it was"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["ball.clay.json", "ball.stl", "old.stl"]


def test_a_3mf_needs_no_room_on_the_disk_before_it_is_there(tmp_path):
    """Its library ends the process when it cannot write."""
    (tmp_path / "ball.clay.json").write_text(BALL.text())
    command = [sys.executable, "-m", "noble_clay.cli", "build", "ball.clay.json", "-o", "ball.3mf"]
    no_disk = {**os.environ, "TMPDIR": "/dev/full"}
    done = subprocess.run(command, cwd=tmp_path, env=no_disk, check=False)
    assert done.returncode == 0
    assert read_mesh((tmp_path / "ball.3mf").read_bytes(), "3mf").mesh.triangles.shape == (3968, 3)


def test_what_is_no_plain_file_is_written_to_as_it_is(tmp_path):
    with pytest.raises(OSError, match="No space left"):
        write_whole(tmp_path / ".." / ".." / ".." / ".." / ".." / ".." / "dev" / "full", b"anything" * 10_000)
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    reader = os.open(pipe, os.O_RDONLY | os.O_NONBLOCK)
    write_whole(pipe, b"through it")
    assert os.read(reader, 100) == b"through it"
    os.close(reader)


def test_a_link_is_followed_and_several_files_come_together(tmp_path):
    (tmp_path / "there").write_bytes(b"old")
    (tmp_path / "link").symlink_to(tmp_path / "there")
    write_whole(tmp_path / "link", b"new")
    assert (tmp_path / "there").read_bytes() == b"new" and (tmp_path / "link").is_symlink()
    with pytest.raises(OSError, match="missing"):
        write_all_whole({tmp_path / "there": b"newer", tmp_path / "missing" / "file": b"x"})
    assert (tmp_path / "there").read_bytes() == b"new"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["link", "there"]
