"""The laboratory's signature: on the PDF of a report, and on the list of files of a package.

The key is a PKCS#12 file that the environment names; without one, nothing is signed. Signatures are
CMS detached, as PAdES and any reader of PDF expect them.
"""

from __future__ import annotations

import hashlib
import io
import os
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

from endurant.core.refusals import Invalid, Unavailable

if TYPE_CHECKING:
    from asn1crypto.cms import SignerInfo
    from asn1crypto.x509 import Certificate
    from cryptography.x509 import KeyUsage
    from pyhanko.sign.signers import SimpleSigner

KEY_VARIABLE = "ENDURANT_SIGNING_KEY"
PASSPHRASE_VARIABLE = "ENDURANT_SIGNING_PASSPHRASE"  # noqa: S105 - the name, not the passphrase
FIELD = "Laboratory"
YEARS_VALID = 10
MAX_NAME = 64
"""What a certificate takes as a common name."""
ROOM_FOR_SIGNATURE = 16_384
MALFORMED = (ValueError, LookupError, TypeError, AttributeError, RecursionError)
"""What the libraries raise for a stranger's file beside their own errors."""


def make_key(file: Path, laboratory: str, passphrase: str) -> str:
    """Write a key and its certificate as PKCS#12, and return the certificate's fingerprint.

    The file is for its owner only. Raises Invalid when it exists, or cannot be written.
    """
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.hazmat.primitives.asymmetric import rsa
    from cryptography.hazmat.primitives.serialization import pkcs12
    from cryptography.x509.oid import NameOID

    key = rsa.generate_private_key(public_exponent=65_537, key_size=3072)
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, laboratory[:MAX_NAME])])
    now = datetime.now(UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(minutes=5))
        .not_valid_after(now + timedelta(days=365 * YEARS_VALID))
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_for_signing(), critical=True)
        .sign(key, hashes.SHA256())
    )
    locked = (
        serialization.BestAvailableEncryption(passphrase.encode())
        if passphrase
        else serialization.NoEncryption()
    )
    packed = pkcs12.serialize_key_and_certificates(
        laboratory.encode(), key, certificate, None, locked
    )
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as stream:
            stream.write(packed)
    except FileExistsError as there:
        raise Invalid("signing.key-exists", file=str(file)) from there
    except OSError as refused:
        raise Invalid("signing.key-not-written", file=str(file), why=str(refused)) from refused
    return certificate.fingerprint(hashes.SHA256()).hex()


def _for_signing() -> KeyUsage:
    from cryptography import x509

    return x509.KeyUsage(
        digital_signature=True,
        content_commitment=True,
        **dict.fromkeys(  # what it is not for
            (
                *("key_encipherment", "data_encipherment", "key_agreement", "key_cert_sign"),
                *("crl_sign", "encipher_only", "decipher_only"),
            ),
            False,
        ),
    )


def signed_pdf(pdf: bytes) -> bytes:
    """The PDF with the laboratory's signature over all of it; as it is where no key is set.

    Raises Unavailable when the key cannot be read.
    """
    signer = _signer()
    if signer is None:
        return pdf
    from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
    from pyhanko.sign.fields import SigSeedSubFilter
    from pyhanko.sign.signers import PdfSignatureMetadata, sign_pdf

    details = PdfSignatureMetadata(
        field_name=FIELD, md_algorithm="sha256", subfilter=SigSeedSubFilter.PADES
    )
    writer = IncrementalPdfFileWriter(io.BytesIO(pdf))
    written = sign_pdf(writer, details, signer, bytes_reserved=ROOM_FOR_SIGNATURE)
    return bytes(written.getvalue())


def signature_over(content: bytes) -> bytes | None:
    """A detached CMS signature over a file, DER encoded; None where no key is set."""
    signer = _signer()
    if signer is None:
        return None
    import asyncio

    signing = signer.async_sign_general_data(content, "sha256", detached=True)
    return bytes(asyncio.run(signing).dump())


def has_key() -> bool:
    """True where reports are signed. Raises Unavailable when the key cannot be read."""
    return _signer() is not None


def _signer() -> SimpleSigner | None:
    file = os.environ.get(KEY_VARIABLE, "").strip()
    return _read_key(file, os.environ.get(PASSPHRASE_VARIABLE, "")) if file else None


@lru_cache(maxsize=4)
def _read_key(file: str, passphrase: str) -> SimpleSigner:
    from pyhanko.sign.signers import SimpleSigner

    try:
        packed = Path(file).read_bytes()
        signer: SimpleSigner = SimpleSigner.load_pkcs12_data(
            packed, other_certs=[], passphrase=passphrase.encode() or None
        )
        return signer
    except (OSError, ValueError) as unreadable:
        raise Unavailable("signing.key-unreadable", file=file, why=str(unreadable)) from unreadable


@dataclass(frozen=True)
class Signature:
    """What is said by a signature: whose it is, and whether what it covers is unchanged."""

    signer: str
    fingerprint: str
    is_intact: bool
    covers_all: bool = True

    @property
    def holds(self) -> bool:
        """True when nothing was changed after it was signed."""
        return self.is_intact and self.covers_all


def signature_of_pdf(pdf: bytes) -> Signature | None:
    """The last signature of a PDF; None when it has none. Raises Invalid when it is no PDF."""
    from cryptography.exceptions import UnsupportedAlgorithm
    from pyhanko.pdf_utils.misc import PdfError
    from pyhanko.pdf_utils.reader import PdfFileReader
    from pyhanko.sign.validation.errors import SignatureValidationError
    from pyhanko.sign.validation.status import SignatureCoverageLevel

    try:
        signatures = PdfFileReader(io.BytesIO(pdf)).embedded_signatures
        if not signatures:
            return None
        last = signatures[-1]
        last.compute_integrity_info()
        whole = last.coverage == SignatureCoverageLevel.ENTIRE_FILE
        return _checked(last.signer_info, last.signer_cert, last.compute_digest(), whole)
    except (PdfError, SignatureValidationError, UnsupportedAlgorithm, *MALFORMED) as broken:
        raise Invalid("package.not-a-pdf") from broken


def signature_of_file(content: bytes, signature: bytes) -> Signature:
    """A detached CMS signature, DER encoded, over a file. Raises Invalid when it is none."""
    from asn1crypto import cms, x509
    from cryptography.exceptions import UnsupportedAlgorithm
    from pyhanko.sign.validation.errors import SignatureValidationError

    try:
        signed = cms.ContentInfo.load(signature)["content"]
        information = signed["signer_infos"][0]
        (certificate,) = (
            each.chosen
            for each in signed["certificates"]
            if isinstance(each.chosen, x509.Certificate)
        )
        return _checked(information, certificate, hashlib.sha256(content).digest(), True)
    except (SignatureValidationError, UnsupportedAlgorithm, *MALFORMED) as broken:
        raise Invalid("package.not-a-signature") from broken


def _checked(
    information: SignerInfo, certificate: Certificate, digest: bytes, covers_all: bool
) -> Signature:
    from pyhanko.sign.validation.generic_cms import validate_sig_integrity

    same_digest, is_genuine = validate_sig_integrity(information, certificate, "data", digest)
    return Signature(
        str(certificate.subject.native.get("common_name", "")),
        certificate.sha256.hex(),
        same_digest and is_genuine,
        covers_all,
    )
