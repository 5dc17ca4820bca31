"""Certificates for connections between machines: one authority of our own, one key that all its machines share."""

from __future__ import annotations

import datetime
import os
from pathlib import Path
from urllib.parse import urlsplit

from nimble_quake.errors import BadInput, SaveFailed
from nimble_quake.shotfile.files import cure_of

AUTHORITY, CERTIFICATE, KEY = "authority.pem", "certificate.pem", "key.pem"
YEARS = 5
LOOPBACK = ("localhost", "127.0.0.1", "::1")
NEEDED = 'pip install "nimble-quake[farm]"'


def make_keys(folder: Path) -> list[Path]:
    """Make a set of keys in a folder: who holds them may render, and see the jobs. Raises BadInput or SaveFailed."""
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

    def certificate(name: str, key: ec.EllipticCurvePrivateKey, by: str, signer: ec.EllipticCurvePrivateKey,
                    *, authority: bool) -> bytes:  # fmt: skip
        names = [x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, word)]) for word in (name, by)]
        builder = (
            x509.CertificateBuilder(names[1], names[0], key.public_key(), x509.random_serial_number(),
                                    now - datetime.timedelta(hours=1), now + datetime.timedelta(days=365 * YEARS))
            .add_extension(x509.BasicConstraints(ca=authority, path_length=None), critical=True)
            .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
            .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False)
        )  # fmt: skip
        usages = [ExtendedKeyUsageOID.SERVER_AUTH, ExtendedKeyUsageOID.CLIENT_AUTH]
        if not authority:
            builder = builder.add_extension(x509.ExtendedKeyUsage(usages), critical=False)
        signs = x509.KeyUsage(not authority, False, False, False, False, authority, authority, False, False)
        builder = builder.add_extension(signs, critical=True)
        return builder.sign(signer, hashes.SHA256()).public_bytes(serialization.Encoding.PEM)

    root, node = ec.generate_private_key(ec.SECP256R1()), ec.generate_private_key(ec.SECP256R1())
    form = (serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    files = {AUTHORITY: certificate("Nimble Quake farm", root, "Nimble Quake farm", root, authority=True),
             CERTIFICATE: certificate("Nimble Quake machine", node, "Nimble Quake farm", root, authority=False),
             KEY: node.private_bytes(*form)}  # fmt: skip
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in files.items():
            handle = os.open(folder / name, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(handle, "wb") as file:
                file.write(data)
    except OSError as wrong:
        raise SaveFailed(f"cannot be written: {wrong.strerror}", where=str(folder), cure=cure_of(wrong)) from wrong
    return [folder / name for name in files]


def refuse_open(address: str, keys: Path | None, *, plain: bool) -> None:
    """Raise BadInput where a connection would be open to all: without keys, and not on this machine alone."""
    parts = urlsplit(address)
    if parts.scheme not in ("tcp", "tls") or not parts.hostname:
        raise BadInput(f'"{address}" is no address', where="--on", cure="write it as tls://machine:8786")
    if parts.scheme == "tls" and keys is None:
        raise BadInput("a tls address needs keys", where="--keys", cure="nimble-quake farm-keys FOLDER makes them")
    if parts.scheme == "tcp" and parts.hostname not in LOOPBACK and not plain:
        cure = "use tls:// with --keys, or --plain on a network you trust"
        raise BadInput(f"a plain connection to {parts.hostname} can be read by all", where="--on", cure=cure)
    for name in (AUTHORITY, CERTIFICATE, KEY) if keys is not None else ():
        if keys is not None and not (keys / name).is_file():
            raise BadInput(f"{name} is not there", where=str(keys), cure="nimble-quake farm-keys FOLDER makes them")
