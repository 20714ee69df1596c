"""Calm Heron's door for devices, as a simulated device sees it."""

import http.client
import json
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from datetime import datetime
from typing import Any

# For so long a device that gets no answer tries again; where it never had one, the address is probably wrong.
PATIENCE_S, AT_FIRST_S = 120.0, 10.0


class DoorClosed(Exception):
    """The door did not answer, or turned the device away; the text says which."""


class DoorAway(DoorClosed):
    """Nobody answers at the moment."""


class AnyDoor:
    """A door for devices: asked, and told; tests have one of their own."""

    def ask(self) -> dict[str, Any]:
        """What is to be set."""
        raise NotImplementedError

    def tell(self, sent_at: datetime, readings: list[dict[str, Any]]) -> dict[str, Any]:
        """What was read."""
        raise NotImplementedError

    def asked(self) -> dict[str, Any]:
        """As :meth:`ask`, asked again while nobody answers.

        Raises:
            DoorClosed: as :meth:`told`.
        """
        return self._again(self.ask)

    def told(self, sent_at: datetime, readings: list[dict[str, Any]]) -> dict[str, Any]:
        """As :meth:`tell`, told again while nobody answers, as a real device does: what is kept is kept once, by its key.

        Raises:
            DoorClosed: nobody answered for two minutes, or the door turned the device away.
        """
        return self._again(lambda: self.tell(sent_at, readings))

    has_answered = False

    def _again(self, call: Callable[[], dict[str, Any]]) -> dict[str, Any]:
        ends, pause = time.monotonic() + (PATIENCE_S if self.has_answered else AT_FIRST_S), 0.1
        while True:
            try:
                answer = call()
                self.has_answered = True
                return answer
            except DoorAway:
                if time.monotonic() + pause > ends:
                    raise
            time.sleep(pause)
            pause = min(2 * pause, 2.0)


class Door(AnyDoor):
    """Calm Heron's door for devices."""

    def __init__(self, address: str, token: str) -> None:
        self.address, self.token = address.rstrip("/") + "/", token

    def ask(self) -> dict[str, Any]:
        """What is to be set."""
        return self._call("setting")

    def tell(self, sent_at: datetime, readings: list[dict[str, Any]]) -> dict[str, Any]:
        """What was read."""
        return self._call("readings", {"sent_at": sent_at.isoformat(), "readings": readings})

    def _call(self, name: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        request = urllib.request.Request(
            self.address + name,
            None if body is None else json.dumps(body).encode(),
            {"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"},
        )
        try:
            with urllib.request.urlopen(request, timeout=20) as answer:
                return json.load(answer)
        except urllib.error.HTTPError as error:
            if error.code == 401:
                raise DoorClosed(
                    f"The door at {self.address} does not know this token; it is shown once, when a device is let in."
                ) from None
            closed = DoorAway if error.code >= 500 else DoorClosed
            raise closed(f"The door at {self.address} answered {error.code} instead of taking what it was told.") from None
        except (OSError, ValueError, http.client.HTTPException) as error:
            raise DoorAway(f"Nothing that is a door for devices answers at {self.address} ({getattr(error, 'reason', error)}).") from None
