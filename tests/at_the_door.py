"""The door for devices as a simulated device knows it, here of a test's own client."""

import json
from datetime import datetime
from typing import Any

from django.test import Client

from simulators.door import AnyDoor


class DoorHere(AnyDoor):
    """Asked and told without a network."""

    def __init__(self, client: Client, token: str) -> None:
        self.client, self.headers = client, {"authorization": f"Bearer {token}"}

    def ask(self) -> dict[str, Any]:
        return self.client.get("/devices/v1/setting", headers=self.headers).json()

    def tell(self, sent_at: datetime, readings: list[dict[str, Any]]) -> dict[str, Any]:
        body = json.dumps({"sent_at": sent_at.isoformat(), "readings": readings})
        return self.client.post("/devices/v1/readings", body, content_type="application/json", headers=self.headers).json()
