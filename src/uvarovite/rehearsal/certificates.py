"""Certificates of the simulated relay: its own, one for another name, one that has expired. Their authority is its own."""

import ssl
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from uvarovite.rehearsal.providers import Certificate

AUTHORITY = "authority.pem"


def contexts(directory: Path, host: str) -> dict[Certificate, ssl.SSLContext]:
    """What the relay shows, made anew at each start; who wants to trust it trusts `authority.pem` in the directory."""
    directory.mkdir(parents=True, exist_ok=True)
    key, now = ec.generate_private_key(ec.SECP256R1()), datetime.now(UTC)
    authority = _signed("Rehearsal authority", [], key, key, None, now - timedelta(days=1), now + timedelta(days=30))
    _write(directory / AUTHORITY, authority)
    told = {}
    for kind, name, until in (
        (Certificate.ITS_OWN, host, now + timedelta(days=30)),
        (Certificate.OTHER_NAME, "elsewhere.example", now + timedelta(days=30)),
        (Certificate.EXPIRED, host, now - timedelta(hours=1)),
    ):
        own = ec.generate_private_key(ec.SECP256R1())
        path = directory / f"{kind}.pem"
        shown = _signed(name, [name, "localhost"], own, key, authority, now - timedelta(days=1), until)
        path.touch(mode=0o600)
        path.write_bytes(
            own.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            )
            + shown.public_bytes(serialization.Encoding.PEM)
        )
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(path)
        told[kind] = context
    return told


def _signed(
    name: str,
    names: list[str],
    own: ec.EllipticCurvePrivateKey,
    by: ec.EllipticCurvePrivateKey,
    authority: x509.Certificate | None,
    since: datetime,
    until: datetime,
) -> x509.Certificate:
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)])
    made = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(authority.subject if authority else subject)
        .public_key(own.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(since)
        .not_valid_after(until)
        .add_extension(x509.BasicConstraints(ca=authority is None, path_length=None), critical=True)
    )
    if names:
        made = made.add_extension(x509.SubjectAlternativeName([_general(one) for one in names]), critical=False)
    return made.sign(by, hashes.SHA256())


def _general(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _write(path: Path, certificate: x509.Certificate) -> None:
    path.write_bytes(certificate.public_bytes(serialization.Encoding.PEM))
