"""A certificate of one's own for the shop's network: an authority that a phone learns to trust once, and what the server shows, signed by
it.

The authority can speak for this machine's names and for addresses of private networks only, so that who trusts it trusts it with nothing
else. Both are made by the ``cryptography`` library and kept beside the data.
"""

import ipaddress
import os
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

# Phones believe no certificate for longer; one is made anew a month before.
LASTS, RENEWED_BEFORE, AUTHORITY_LASTS = timedelta(days=397), timedelta(days=30), timedelta(days=3650)
PRIVATE = ("127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "::1/128", "fc00::/7", "fe80::/10")
Network = ipaddress.IPv4Network | ipaddress.IPv6Network


@dataclass(frozen=True)
class Certificate:
    """Files: what a phone is to trust, and the certificate and key that the server shows."""

    authority: Path
    certificate: Path
    key: Path


def certificate_for(names: Sequence[str], folder: Path) -> Certificate:
    """The certificate for these host names and addresses, made where there is none that names all of them and lasts another month."""
    folder.mkdir(mode=0o700, exist_ok=True)
    made = Certificate(folder / "authority.crt", folder / "server.crt", folder / "server.key")
    wanted = sorted({name.strip("[]").lower() for name in names if name} | {"localhost", "127.0.0.1", "::1"})
    private = folder / "authority.key"
    if not (made.authority.exists() and private.exists() and _may_name(made.authority, wanted)):
        _authority(wanted, made.authority, private)
        made.certificate.unlink(missing_ok=True)
    if not (made.certificate.exists() and made.key.exists() and _names(made.certificate) >= set(wanted) and _lasts(made.certificate)):
        _server(wanted, made, private)
    return made


def _authority(names: Sequence[str], file: Path, private: Path) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    hosts = [name for name in names if _address(name) is None]
    called = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Calm Heron on {next(iter(hosts), 'this machine')}"[:64])])
    nets: list[Network] = [ipaddress.ip_network(net) for net in PRIVATE]
    nets += [ipaddress.ip_network(address) for name in names if (address := _address(name)) and not any(address in net for net in nets)]
    allowed = [*(x509.DNSName(host) for host in hosts), *(x509.IPAddress(net) for net in nets)]
    made = _begun(called, called, key.public_key(), AUTHORITY_LASTS)
    made = made.add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
    made = made.add_extension(x509.NameConstraints(allowed, None), critical=True)
    made = made.add_extension(_usage(signs=True), critical=True)
    made = made.add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    _write_key(private, key)
    file.write_bytes(made.sign(key, hashes.SHA256()).public_bytes(serialization.Encoding.PEM))


def _server(names: Sequence[str], made: Certificate, private: Path) -> None:
    authority = x509.load_pem_x509_certificate(made.authority.read_bytes())
    signer = serialization.load_pem_private_key(private.read_bytes(), None)
    assert isinstance(signer, ec.EllipticCurvePrivateKey)
    key = ec.generate_private_key(ec.SECP256R1())
    called = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Calm Heron")])
    said = [x509.IPAddress(address) if (address := _address(name)) else x509.DNSName(name) for name in names]
    begun = _begun(called, authority.subject, key.public_key(), LASTS)
    begun = begun.add_extension(x509.SubjectAlternativeName(said), critical=False)
    begun = begun.add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
    begun = begun.add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    begun = begun.add_extension(_usage(signs=False), critical=True)
    begun = begun.add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False)
    _write_key(made.key, key)
    made.certificate.write_bytes(begun.sign(signer, hashes.SHA256()).public_bytes(serialization.Encoding.PEM))


def _begun(subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, lasts: timedelta) -> x509.CertificateBuilder:
    # A phone's clock may be behind ours.
    begins = datetime.now(UTC) - timedelta(days=1)
    builder = x509.CertificateBuilder().subject_name(subject).issuer_name(issuer).public_key(key)
    return builder.serial_number(x509.random_serial_number()).not_valid_before(begins).not_valid_after(begins + lasts)


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(not signs, False, False, False, False, signs, signs, False, False)


def _write_key(file: Path, key: ec.EllipticCurvePrivateKey) -> None:
    file.unlink(missing_ok=True)
    private = key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
        out.write(private)


def _address(name: str) -> ipaddress.IPv4Address | ipaddress.IPv6Address | None:
    try:
        return ipaddress.ip_address(name)
    except ValueError:
        return None


def _names(file: Path) -> set[str]:
    said = x509.load_pem_x509_certificate(file.read_bytes()).extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return {*said.get_values_for_type(x509.DNSName), *(str(address) for address in said.get_values_for_type(x509.IPAddress))}


def _lasts(file: Path) -> bool:
    return x509.load_pem_x509_certificate(file.read_bytes()).not_valid_after_utc > datetime.now(UTC) + RENEWED_BEFORE


def _may_name(authority: Path, names: Sequence[str]) -> bool:
    """Whether the authority lasts, and may speak for all of these."""
    if not _lasts(authority):
        return False
    said = x509.load_pem_x509_certificate(authority.read_bytes()).extensions.get_extension_for_class(x509.NameConstraints).value
    allowed = [item.value for item in said.permitted_subtrees or []]
    nets = [item for item in allowed if isinstance(item, Network)]
    return all(any(address in net for net in nets) if (address := _address(name)) else name in allowed for name in names)
