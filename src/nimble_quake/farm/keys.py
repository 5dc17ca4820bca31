"""Certificates for connections between machines: one authority of our own, one key that all its machines share."""

from __future__ import annotations

import datetime
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from nimble_quake.errors import BadInput, SaveFailed
from nimble_quake.shotfile.files import cure_of, read_plain

AUTHORITY, CERTIFICATE, KEY = "authority.pem", "certificate.pem", "key.pem"
SUFFIXES = (".pem", ".crt", ".cer", ".key")
MOST_BYTES = 1_000_000
YEARS = 5
LOOPBACK = ("localhost", "127.0.0.1", "::1")
NEEDED = 'pip install "nimble-quake[farm]"'


def make_keys(folder: Path) -> list[Path]:
    """Make a set of keys in a folder: who holds them is trusted with every machine. Raises BadInput or SaveFailed."""
    try:
        from cryptography import x509
        from cryptography.hazmat.primitives import hashes, serialization
        from cryptography.hazmat.primitives.asymmetric import ec
        from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID
    except ImportError as wrong:
        raise BadInput("keys need the extra for many machines", cure=NEEDED) from wrong
    taken = [name for name in (AUTHORITY, CERTIFICATE, KEY) if (folder / name).exists()]
    if taken:
        raise BadInput(f"{taken[0]} is there already", where=str(folder), cure="choose another folder, or remove it")
    now = datetime.datetime.now(datetime.UTC)

    def certificate(
        name: str, key: ec.EllipticCurvePrivateKey, by: str, signer: ec.EllipticCurvePrivateKey, *, authority: bool
    ) -> bytes:
        names = [x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, word)]) for word in (name, by)]
        builder = (
            x509.CertificateBuilder(
                names[1],
                names[0],
                key.public_key(),
                x509.random_serial_number(),
                now - datetime.timedelta(hours=1),
                now + datetime.timedelta(days=365 * YEARS),
            )
            .add_extension(x509.BasicConstraints(ca=authority, path_length=None), critical=True)
            .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
            .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False)
        )
        usages = [ExtendedKeyUsageOID.SERVER_AUTH, ExtendedKeyUsageOID.CLIENT_AUTH]
        if not authority:
            builder = builder.add_extension(x509.ExtendedKeyUsage(usages), critical=False)
        signs = x509.KeyUsage(not authority, False, False, False, False, authority, authority, False, False)
        builder = builder.add_extension(signs, critical=True)
        return builder.sign(signer, hashes.SHA256()).public_bytes(serialization.Encoding.PEM)

    root, node = ec.generate_private_key(ec.SECP256R1()), ec.generate_private_key(ec.SECP256R1())
    form = (serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    files = {
        AUTHORITY: certificate("Nimble Quake farm", root, "Nimble Quake farm", root, authority=True),
        CERTIFICATE: certificate("Nimble Quake machine", node, "Nimble Quake farm", root, authority=False),
        KEY: node.private_bytes(*form),
    }
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in files.items():
            handle = os.open(folder / name, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(handle, "wb") as file:
                file.write(data)
    except OSError as wrong:
        raise SaveFailed(f"cannot be written: {wrong.strerror}", where=str(folder), cure=cure_of(wrong)) from wrong
    return [folder / name for name in files]


@dataclass(frozen=True)
class Keys:
    """The files of one set of keys, whatever they are called."""

    authority: Path
    certificate: Path
    key: Path


def keys_in(folder: Path) -> Keys:
    """Return the keys in a folder: which file is which is told by what it holds. Raises BadInput."""
    cure = "nimble-quake farm-keys FOLDER makes a set of keys"
    try:
        files = sorted(file for file in folder.iterdir() if file.suffix in SUFFIXES and file.is_file())
    except OSError as wrong:
        raise BadInput(f"the keys cannot be read: {wrong.strerror}", where=str(folder), cure=cure) from wrong
    found: dict[str, list[Path]] = {"authority": [], "certificate": [], "key": []}
    for file in files:
        for kind in _kinds_of(file):
            found[kind].append(file)
    for kind, all_of_it in found.items():
        if len(all_of_it) != 1:
            words = ", ".join(file.name for file in all_of_it) or "none"
            raise BadInput(f"one {kind} is needed, there is {words}", where=str(folder), cure=cure)
    return Keys(*(found[kind][0] for kind in ("authority", "certificate", "key")))


def _kinds_of(file: Path) -> set[str]:
    """What a PEM file holds (RFC 7468): the certificate of an authority, one of a machine, a key."""
    from cryptography import x509

    data = read_plain(file, MOST_BYTES)
    kinds = {"key"} if b"PRIVATE KEY-----" in data else set()
    if b"BEGIN CERTIFICATE-----" in data:
        try:
            for certificate in x509.load_pem_x509_certificates(data):
                kinds.add("authority" if _is_authority(certificate) else "certificate")
        except ValueError as wrong:
            raise BadInput("holds a damaged certificate", where=str(file), cure="make the keys anew") from wrong
    return kinds


def _is_authority(certificate: Any) -> bool:
    from cryptography import x509

    try:
        return bool(certificate.extensions.get_extension_for_class(x509.BasicConstraints).value.ca)
    except x509.ExtensionNotFound:
        return False


def refuse_open(address: str, *, secured: bool, plain: bool) -> None:
    """Raise BadInput where a connection would be open to all: without keys, and not on this machine alone."""
    parts = urlsplit(address)
    if parts.scheme not in ("tcp", "tls") or not parts.hostname:
        cure = "write it as tls://machine:8786, or name a scheduler file"
        raise BadInput(f'"{address}" is no address', where="--on", cure=cure)
    if parts.scheme == "tls" and not secured:
        cure = "nimble-quake farm-keys FOLDER makes them; or set them in dask's own configuration"
        raise BadInput("a tls address needs keys", where="--keys", cure=cure)
    if parts.scheme == "tcp" and parts.hostname not in LOOPBACK and not plain:
        cure = "use tls:// with --keys, or --plain on a network you trust"
        raise BadInput(f"a plain connection to {parts.hostname} can be read by all", where="--on", cure=cure)
