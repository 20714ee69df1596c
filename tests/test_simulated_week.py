"""An hour of the simulated week, and days of some of it: each reading in the database once, each verdict against what was true."""

import json
import tempfile
from datetime import timedelta
from pathlib import Path
from unittest import mock

from django.test import TestCase
from django.utils import timezone

from command import simulated_shop
from simulators import hygrometer, kiln_controller, lines, meter, scale
from tests.at_the_door import DoorHere
from tests.factories import make_owner


class Simulated(TestCase):
    """The programs themselves, through the door of a test, on the workshop of the simulated week."""

    def told(self, hours: float, every: float, *names: str) -> list[simulated_shop.Row]:
        by = make_owner()
        standing = simulated_shop.stand(by, timezone.now() - timedelta(hours=hours))
        mains = {"kiln": kiln_controller, "scale": scale, "hygrometer": hygrometer, "weather": hygrometer}
        truths = {}
        with tempfile.TemporaryDirectory() as folder:
            for item in standing:
                if names and item.name not in names:
                    continue
                device, *words = item.words
                is_air = device in ("hygrometer", "weather")
                span = [] if device == "scale" else ["--hours", str(int(hours) or 1 if device == "kiln" else hours)]
                words += [*span, *(["--every", str(every)] if is_air else []), "--truth", f"{folder}/truth"]
                options = lines.read(device, [*words, "--door", "here", "--token", "x"])
                module = mains.get(device, meter)
                here = DoorHere(self.client, item.token)
                with mock.patch.object(module, "Door", lambda *_, here=here: here), mock.patch("builtins.print"):
                    self.assertEqual(module.main(options), 0)
                truths[item.name] = [json.loads(line) for line in Path(folder, "truth").read_text().splitlines()]
        rows = simulated_shop.held_against(by, [item for item in standing if item.name in truths], truths)
        self.assertEqual({row.name: (row.said, row.wrong) for row in rows if row.wrong}, {})
        self.by = by
        return rows

    def test_an_hour_of_all_of_them_is_in_the_database_once(self):
        rows = self.told(1, 10, *(name for name, *_ in simulated_shop.AIRS), "Yard", "Pins", "Plate", "Probe", "Controller")
        self.assertEqual({row.name: row.there for row in rows}["Yard"], 7)
        self.assertGreater(sum(row.there for row in rows), 50)

    def test_days_of_air_and_of_weights_are_as_they_truly_were_and_failures_are_seen(self):
        rows = self.told(100, 30, "Bench room", "Store", "Loft", "Cellar", "Yard", "Bowl scale")
        said = {row.name: row.said for row in rows}
        self.assertIn("silent", said["Loft"])
        self.assertIn("stuck", said["Cellar"])
