"""What docs/hosting.md promises of the settings: nothing left to warn of, and a proxy believed only where there is one."""

import json
import os
import subprocess
import sys
import unittest

from command.machine import ROOT

ASK = """
import json, django
django.setup()
from allauth.core.internal.httpkit import get_client_ip
from django.test import Client, RequestFactory
through = {"HTTP_X_FORWARDED_PROTO": "https", "HTTP_X_FORWARDED_FOR": "203.0.113.9, 198.51.100.7", "HTTP_HOST": "wood.example"}
request = RequestFactory().get("/", **through)
client = Client(enforce_csrf_checks=True)
plain, secure = client.get("/accounts/login/", HTTP_HOST="wood.example"), client.get("/accounts/login/", **through)
token = secure.cookies["csrftoken"].value
posted = client.post("/appearance/", {"theme": "dark", "csrfmiddlewaretoken": token}, HTTP_ORIGIN="https://wood.example", **through)
print(json.dumps({
    "secure": request.is_secure(), "address": get_client_ip(request), "plain": plain.status_code, "status": secure.status_code,
    "cookie": bool(secure.cookies["csrftoken"]["secure"]), "hsts": secure.headers.get("Strict-Transport-Security", ""),
    "posted": posted.status_code, "alive": client.get("/alive/", HTTP_HOST="127.0.0.1").status_code,
}))
"""


class Hosted(unittest.TestCase):
    takes_s = 25

    def ran(self, *command: str, **environment: str) -> subprocess.CompletedProcess:
        own = {name: value for name, value in os.environ.items() if not name.startswith(("CALM_HERON_", "DJANGO_"))}
        settings = {
            "DJANGO_SETTINGS_MODULE": "calm_heron.settings.base",
            "CALM_HERON_SECRET_KEY": "x1y2z3-" * 10,
            "CALM_HERON_HOSTS": "wood.example",
            # A place that has no manifest: pages of the accounts then name their files plainly.
            "CALM_HERON_STATIC_ROOT": os.environ.get("CALM_HERON_STATIC_ROOT", ""),
        }
        return subprocess.run([sys.executable, *command], cwd=ROOT, env=own | settings | environment, capture_output=True, text=True)

    def answer_of(self, **environment: str) -> dict:
        done = self.ran("-c", ASK.replace("django.setup()", PLAIN_FILES + "django.setup()"), **environment)
        self.assertEqual(done.returncode, 0, done.stderr)
        return json.loads(done.stdout.splitlines()[-1])

    def test_nothing_is_left_to_warn_of(self):
        done = self.ran("manage.py", "check", "--deploy", "--fail-level", "WARNING", CALM_HERON_BEHIND_TLS="1")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("no issues", done.stdout + done.stderr)
        # The check can fail: without the proxy there is something to say.
        self.assertNotEqual(self.ran("manage.py", "check", "--deploy", "--fail-level", "WARNING").returncode, 0)

    def test_behind_the_proxy_it_is_believed_and_cookies_are_secure(self):
        answer = self.answer_of(CALM_HERON_BEHIND_TLS="1")
        self.assertEqual((answer["secure"], answer["address"]), (True, "198.51.100.7"))
        self.assertEqual((answer["plain"], answer["status"], answer["posted"], answer["alive"]), (301, 200, 302, 200))
        self.assertTrue(answer["cookie"])
        self.assertEqual(answer["hsts"], "max-age=31536000")

    def test_without_one_nobody_is_believed(self):
        answer = self.answer_of()
        self.assertEqual((answer["secure"], answer["address"]), (False, "127.0.0.1"))
        self.assertEqual((answer["plain"], answer["cookie"], answer["hsts"]), (200, False, ""))


PLAIN_FILES = (
    "from django.conf import settings;"
    "settings.STORAGES = settings.STORAGES | {'staticfiles': {'BACKEND': 'django.contrib.staticfiles.storage.StaticFilesStorage'}};"
)
