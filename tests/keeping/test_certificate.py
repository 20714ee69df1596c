"""The certificate of one's own: what it may speak for, how long it lasts, and that a client which trusts it is let in and no other."""

import http.server
import ipaddress
import ssl
import tempfile
import threading
import unittest
import urllib.request
from datetime import timedelta
from pathlib import Path
from unittest import mock
from urllib.error import URLError

from cryptography import x509

from command import certificate
from command.certificate import certificate_for


class Case(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "https"

    def served(self, made) -> str:
        """The address of something that shows it."""
        server = http.server.HTTPServer(("127.0.0.1", 0), http.server.SimpleHTTPRequestHandler)
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(made.certificate, made.key)
        server.socket = context.wrap_socket(server.socket, server_side=True)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        return f"https://127.0.0.1:{server.server_port}/"

    def head(self, address: str, trusted=None) -> int:
        request = urllib.request.Request(address, method="HEAD")
        return urllib.request.urlopen(request, timeout=5, context=ssl.create_default_context(cafile=trusted)).status


class Certificates(Case):
    def test_who_trusts_the_authority_is_let_in_and_nobody_else(self):
        made = certificate_for(["bench", "bench.local", "192.168.1.20"], self.folder)
        address = self.served(made)
        self.assertEqual(self.head(address, made.authority), 200)
        with self.assertRaises(URLError):
            self.head(address)

    def test_keys_are_read_by_their_owner_only(self):
        certificate_for(["bench"], self.folder)
        for file in self.folder.glob("*.key"):
            self.assertEqual(file.stat().st_mode & 0o777, 0o600)
        self.assertEqual(self.folder.stat().st_mode & 0o777, 0o700)

    def test_it_is_made_once_and_anew_for_another_address_while_the_authority_stays(self):
        made = certificate_for(["bench", "192.168.1.20"], self.folder)
        first, trusted = made.certificate.read_bytes(), made.authority.read_bytes()
        certificate_for(["192.168.1.20", "bench"], self.folder)
        self.assertEqual(made.certificate.read_bytes(), first)
        certificate_for(["bench", "192.168.7.9"], self.folder)
        self.assertNotEqual(made.certificate.read_bytes(), first)
        self.assertEqual(made.authority.read_bytes(), trusted)

    def test_another_name_needs_another_authority(self):
        made = certificate_for(["bench"], self.folder)
        trusted = made.authority.read_bytes()
        certificate_for(["loft"], self.folder)
        self.assertNotEqual(made.authority.read_bytes(), trusted)

    def test_it_is_made_anew_a_month_before_it_ends(self):
        made = certificate_for(["bench"], self.folder)
        first = made.certificate.read_bytes()
        with mock.patch.object(certificate, "RENEWED_BEFORE", timedelta(days=400)):
            certificate_for(["bench"], self.folder)
        self.assertNotEqual(made.certificate.read_bytes(), first)

    def test_the_authority_may_speak_for_this_machine_and_private_networks_only(self):
        made = certificate_for(["bench", "bench.local", "203.0.113.5"], self.folder)
        authority = x509.load_pem_x509_certificate(made.authority.read_bytes())
        limits = authority.extensions.get_extension_for_class(x509.NameConstraints)
        self.assertTrue(limits.critical)
        said = [item.value for item in limits.value.permitted_subtrees]
        self.assertEqual({item for item in said if isinstance(item, str)}, {"bench", "bench.local", "localhost"})
        nets = [item for item in said if not isinstance(item, str)]
        self.assertTrue(any(ipaddress.ip_address("203.0.113.5") in net for net in nets))
        self.assertFalse(any(ipaddress.ip_address("203.0.113.6") in net for net in nets))
        shown = x509.load_pem_x509_certificate(made.certificate.read_bytes())
        self.assertLessEqual(shown.not_valid_after_utc - shown.not_valid_before_utc, timedelta(days=398))
