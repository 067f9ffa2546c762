"""Certificates of this machine's own names, for servers of tests that speak TLS."""

import datetime
import ipaddress
import ssl
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat


def make_certificate(folder: Path) -> None:
    """A certificate of this machine's names for a day, and its key."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "localhost")])
    now = datetime.datetime.now(datetime.UTC)
    names = [x509.DNSName("localhost"), x509.IPAddress(ipaddress.ip_address("127.0.0.1"))]
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(hours=1))
        .not_valid_after(now + datetime.timedelta(days=1))
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .sign(key, SHA256())
    )
    own = key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    (folder / "certificate.pem").write_bytes(made.public_bytes(Encoding.PEM))
    (folder / "key.pem").write_bytes(own)
    (folder / "both.pem").write_bytes(made.public_bytes(Encoding.PEM) + own)


def trusting(certificate: Path) -> ssl.SSLContext:
    return ssl.create_default_context(cafile=str(certificate))
