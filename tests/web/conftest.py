"""Short ways to talk to a server."""

import uuid

import pytest

from tests.building import box, part
from tests.waiting import wait_until


@pytest.fixture(scope="session", autouse=True)
def database(cluster):
    """Also for tests that need no server."""


@pytest.fixture
def api(server):
    with server.client() as client:
        yield client


class Maker:
    """A maker at work on one piece: every method returns the answered state."""

    until_counted = True
    """Whether to wait for the soundness too, which a busy machine tells after the answer."""

    def __init__(self, client):
        self.client = client
        self.state = client.post("/api/pieces", json={"name": "Test piece"}).raise_for_status().json()

    @property
    def url(self):
        return f"/api/pieces/{self.state['id']}"

    def post(self, edit, base=None, request_id=None):
        body = {
            "base_revision": self.state["revision"] if base is None else base,
            "request_id": request_id or str(uuid.uuid4()),
            "edit": edit,
        }
        return self.client.post(f"{self.url}/edits", json=body)

    def edit(self, **edit):
        return self.take(self.post(edit))

    def take(self, answer):
        """The state that an edit of any kind answered, once it is made: a busy machine answers before that."""
        self.state = answer.raise_for_status().json()
        return self.counted() if self.until_counted else self.made()

    def fresh(self):
        """The state as it is kept now, once it is made."""
        return self.take(self.client.get(self.url))

    def made(self, patience=60):
        """The state once it is made, or is told to be impossible."""

        def ended():
            if self.state["making"]:
                now = self.client.get(self.url).raise_for_status().json()
                self.state = {**now, "chosen": self.state["chosen"]}
            return not self.state["making"]

        wait_until(ended, "it is never made", patience)
        return self.state

    def counted(self, patience=60):
        """The state once its soundness is known too."""

        def counted():
            if self.made()["scene"]["soundness"] is None and not self.state["problem"]:
                self.state = {**self.client.get(self.url).raise_for_status().json(), "chosen": self.state["chosen"]}
            return self.state["scene"]["soundness"] or self.state["problem"]

        wait_until(counted, "it is never counted", patience)
        return self.state

    def step(self, way):
        answer = self.client.post(f"{self.url}/{way}", json={"base_revision": self.state["revision"]})
        return self.take(answer)

    def drilled(self):
        """A cube with a hole, as two edits."""
        self.edit(
            kind="add_parts",
            parts=[box("cube", (0, 0, 10), (20, 20, 20)), part("rod", "cylinder", (0, 0, 10), radius=4, height=30)],
        )
        return self.edit(kind="join", ids=["cube", "rod"], op="difference")


@pytest.fixture
def maker(api):
    return Maker(api)
