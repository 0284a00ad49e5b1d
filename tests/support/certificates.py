"""An authority of the tests' own, and certificates from it: for other names, or expired."""

import ssl
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID


@dataclass(frozen=True)
class Certificates:
    """`authority` is the file of whoever signs."""

    directory: Path
    authority: Path
    _key: ec.EllipticCurvePrivateKey
    _certificate: x509.Certificate

    def server(self, name: str, *, days: int = 1) -> ssl.SSLContext:
        """A server that shows a certificate for a name, which is good for so many days from now on."""
        key = ec.generate_private_key(ec.SECP256R1())
        certificate = _built(name, self._certificate.subject, key, self._key, days, authority=False)
        file = self.directory / f"{name} {days}.pem"
        file.write_bytes(
            key.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            )
            + certificate.public_bytes(serialization.Encoding.PEM)
        )
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(file)
        return context


def _built(
    name: str,
    issuer: x509.Name,
    key: ec.EllipticCurvePrivateKey,
    signed_by: ec.EllipticCurvePrivateKey,
    days: int,
    *,
    authority: bool,
) -> x509.Certificate:
    now = datetime.now(UTC)
    builder = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)]))
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=30))
        .not_valid_after(now + timedelta(days=days))
        .add_extension(x509.BasicConstraints(ca=authority, path_length=None), critical=True)
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(name)]), critical=False)
    )
    return builder.sign(signed_by, hashes.SHA256())


def make_certificates(directory: Path) -> Certificates:
    """An authority with its files in a directory."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "authority.example")])
    certificate = _built("authority.example", name, key, key, 30, authority=True)
    file = directory / "authority.pem"
    file.write_bytes(certificate.public_bytes(serialization.Encoding.PEM))
    return Certificates(directory, file, key, certificate)
