"""A certificate for the home's name, from an authority of the home's own."""

import os
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address, ip_network
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from ..core.errors import Refusal

AUTHORITY_DAYS, DAYS = 3650, 397
"""A server's certificate holds 397 days: browsers take no longer ones of public authorities, and some of none (common practice)."""
FILES = ("home-authority.pem", "home-authority.key", "server.pem", "server.key")


def make_certificate(folder: Path, names: tuple[str, ...], now: datetime | None = None) -> dict[str, Path]:
    """An authority (made once, then used again for names that it may vouch for) and a certificate of it; returns their files.

    Raises: Refusal for a name that cannot be one.
    """
    begins = (now or datetime.now(UTC)) - timedelta(hours=1)
    named = [_named(each) for each in names]
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    paths = {name: folder / name for name in FILES}
    key, authority = _authority(paths, _within(named), begins)
    own = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, names[0][:64])])
    certificate = _signed(
        _begun(subject, authority.subject, own.public_key(), begins, DAYS)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.SubjectAlternativeName(named), critical=False)
        .add_extension(_usage(authority=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(key.public_key()), critical=False),
        key,
    )
    _write(paths["server.key"], _pem(own), secret=True)
    _write(paths["server.pem"], certificate.public_bytes(serialization.Encoding.PEM))
    return paths


def _authority(
    paths: dict[str, Path], within: list[x509.GeneralName], begins: datetime
) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    """The one that is there, where it may vouch for these names and has a year left; else a new one."""
    if all(paths[name].exists() for name in FILES[:2]):
        held = serialization.load_pem_private_key(paths["home-authority.key"].read_bytes(), None)
        there = x509.load_pem_x509_certificate(paths["home-authority.pem"].read_bytes())
        may = there.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
        left = there.not_valid_after_utc - begins
        if isinstance(held, ec.EllipticCurvePrivateKey) and all(each in may for each in within) and left > timedelta(days=DAYS):
            return held, there
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Frost Tally at home, {begins:%Y-%m-%d}")])
    authority = _signed(
        _begun(name, name, key.public_key(), begins, AUTHORITY_DAYS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=within, excluded_subtrees=None), critical=True)
        .add_extension(_usage(authority=True), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False),
        key,
    )
    _write(paths["home-authority.key"], _pem(key), secret=True)
    _write(paths["home-authority.pem"], authority.public_bytes(serialization.Encoding.PEM))
    return key, authority


def _named(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ip_address(name))
    except ValueError:
        plain = name.strip().rstrip(".").lower()
        if (
            not plain.isascii()
            or not 1 <= len(plain) <= 253
            or not all(part.replace("-", "a").isalnum() for part in plain.split("."))
        ):
            raise Refusal(f"{name!r} is no name of a computer, such as tally.home.arpa, and no address.") from None
        return x509.DNSName(plain)


def _within(named: list[x509.GeneralName]) -> list[x509.GeneralName]:
    """What an authority may sign: these names and addresses, and no other's, so that who trusts it trusts it for this home alone."""
    return [x509.IPAddress(ip_network(each.value)) if isinstance(each, x509.IPAddress) else each for each in named]


def _begun(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, begins: datetime, days: int
) -> x509.CertificateBuilder:
    builder = x509.CertificateBuilder().subject_name(subject).issuer_name(issuer).public_key(key)
    return (
        builder.serial_number(x509.random_serial_number()).not_valid_before(begins).not_valid_after(begins + timedelta(days=days))
    )


def _signed(builder: x509.CertificateBuilder, key: ec.EllipticCurvePrivateKey) -> x509.Certificate:
    return builder.sign(key, hashes.SHA256())


def _usage(authority: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not authority, key_cert_sign=authority, crl_sign=authority, content_commitment=False, key_encipherment=False,
        data_encipherment=False, key_agreement=False, encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())


def _write(path: Path, content: bytes, secret: bool = False) -> None:
    """A file, readable for its owner alone where it is secret."""
    with open(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600 if secret else 0o644), "wb") as out:
        out.write(content)
