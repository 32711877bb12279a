"""A device at a visit, for tests."""

import datetime
import uuid

START = datetime.datetime(2026, 11, 25, 9, tzinfo=datetime.UTC)


class Device:
    """What a device sends, and what it knows."""

    def __init__(self, client, heater, client_id=None):
        self.client, self.heater = client, heater
        self.visit, self.id, self.clock, self.after = client_id or str(uuid.uuid4()), str(uuid.uuid4()), 0, 0
        self.known: dict[str, dict] = {}
        self.extras: list[str] = []
        self.components = ["relief_valve"]
        self.seconds = 0

    def tap(self, step="arrival.greet", kind="done", **more):
        """A tap, a minute after the one before."""
        self.clock += 1
        self.seconds += 60
        at = (START + datetime.timedelta(seconds=self.seconds)).isoformat()
        told = {"client_id": str(uuid.uuid4()), "clock": self.clock, "at": at, "kind": kind, "step": step}
        return {**told, "known": self.after, **more}

    def says(self, *events, status=200):
        body = {
            "client_id": self.visit, "heater_id": self.heater.pk, "components": self.components, "extras": self.extras,
            "device": self.id, "after": self.after, "events": list(events),
        }  # fmt: skip
        answer = self.client.post("visits/sessions", body)
        assert answer.status_code == status, answer.json()
        told = answer.json()
        if status == 200:
            self.visit, self.after = told["client_id"], told["cursor"]
            self.known |= {one["client_id"]: one for one in told["events"]}
            self.clock = max([self.clock, *(one["clock"] for one in told["events"])])
        return told
