"""The page that says when all was last backed up."""

from datetime import timedelta
from pathlib import Path
from tempfile import TemporaryDirectory

from django.test import TestCase, override_settings
from django.utils import timezone

from calm_heron.jobs.backup_names import STAMP
from calm_heron.people import backup_words
from tests.factories import make_owner
from tests.pages import text_of


class Words(TestCase):
    def test_what_happened_is_said_and_who_can_do_what(self):
        now = timezone.now()
        for made, failed, word in (
            (None, None, "No nightly backups"),
            (now - timedelta(hours=5), None, "Backed up 5 hours ago"),
            (now - timedelta(days=4), None, "Backed up 4 days ago"),
            (now - timedelta(days=2), (now, "no space"), "The last backup failed"),
            (None, (now, "no space"), "The last backup failed"),
        ):
            for is_operator in (True, False):
                with self.subTest(word, is_operator=is_operator):
                    said = backup_words.described(made, failed, is_operator)
                    self.assertEqual(said["word"], word)
                    self.assertEqual("./heron" in said["next_step"], is_operator and not failed and word != "Backed up 5 hours ago")

    def test_the_page_reads_the_newest_file(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        address = f"/w/{owner.workshop.slug}/people/backup/"
        self.assertIn("No nightly backups", text_of(self.client.get(address)))
        with TemporaryDirectory() as folder:
            switch = Path(folder) / "nightly"
            switch.write_text(folder)
            (Path(folder) / f"calm-heron-{timezone.localtime() - timedelta(hours=3):{STAMP}}.backup").touch()
            with override_settings(NIGHTLY=str(switch)):
                page = text_of(self.client.get(address))
        self.assertIn("Backed up 3 hours ago", page)
        self.assertNotIn("./heron", page)
