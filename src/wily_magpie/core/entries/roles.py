"""Which field of a place takes what a template fills, where the place calls it otherwise: by kind, and by name in several languages.

A role is the key that starters give a field: "address", "captured", "authors" … A field that has such a key plays that role.
"""

import re
from collections.abc import Callable, Mapping, Sequence

from wily_magpie.core.entries.field import Field

NOTHING = "nothing"
"""The role of a field that a person takes out of it all."""
ROLES: Mapping[str, tuple[str, str]] = {
    "address": (
        "address",
        "address url uri link href web webpage website page source adresse webadresse webseite quelle lien source_url enlace "
        "dirección direccion fuente collegamento indirizzo fonte bron adres koppeling källa länk kilde odkaz",
    ),
    "captured": (
        "moment of capture",
        "captured saved added retrieved accessed seen kept clipped collected erfasst abgerufen gespeichert hinzugefügt gesehen "
        "capturé consulté ajouté enregistré guardado capturado consultado añadido salvato aggiunto consultato opgeslagen toegevoegd",
    ),
    "authors": (
        "authors",
        "authors author by writer writers creator byline autor autoren autorin autorinnen verfasser verfasserin von auteur auteurs "
        "par autora autores escritor autore autori autrice schrijver auteure forfatter författare",
    ),
    "published": (
        "date of publication",
        "published publication issued date dated datum erschienen veröffentlicht erscheinungsdatum publié parution publicado fecha "
        "pubblicato data gepubliceerd verschenen publicerad udgivet",
    ),
    "site": (
        "name of the site",
        "site website publication outlet newspaper journal webseite zeitung medium journal_name sitio periódico sito giornale krant",
    ),
    "tags": (
        "key words",
        "tags keywords topics subjects labels schlagwörter stichwörter schlagworte themen étiquettes mots-clés sujets etiquetas "
        "temas etichette argomenti trefwoorden onderwerpen",
    ),
    "description": (
        "description",
        "description abstract summary beschreibung zusammenfassung résumé descripción resumen descrizione riassunto omschrijving",
    ),
    "language": ("language", "language lang sprache langue idioma lingua taal"),
    "status": ("status", "status state stand zustand statut état estado stato toestand"),
}
"""What each is called to people, and what fields for it are called."""
OF_NOTES = {"captured": "created erstellt angelegt créé creado creato aangemaakt skapad oprettet"}
"""Names that in a note mean its own making, and elsewhere that of a thing."""
OF_PICTURES = re.compile(r"picture|image|photo|cover|bild|foto|imagen|immagine|icon", re.IGNORECASE)


def is_plain(field: Field) -> bool:
    """Whether it holds plain text."""
    return field.kind.name in ("text", "long text")


CAN_BE: Mapping[str, Callable[[Field], bool]] = {
    "address": lambda field: field.kind.is_address and not OF_PICTURES.search(f"{field.label} {field.key}"),
    "captured": lambda field: field.kind.is_dated,
    "published": lambda field: field.kind.is_dated,
    "authors": lambda field: (
        field.kind.is_people or (field.kind.is_worded and not field.kind.holds_files and not field.kind.is_linked)
    ),
    "tags": lambda field: field.kind.is_many and field.kind.has_options,
    "status": lambda field: field.kind.has_spine,
    "site": is_plain,
    "description": is_plain,
    "language": lambda field: is_plain(field) or field.kind.has_spine,
}
SURE_ADDRESSES = frozenset(("url", "uri", "link", "href", "webadresse", "webpage", "enlace", "lien"))
"""Names of fields of text that hold addresses all the same."""


def words_of(field: Field) -> set[str]:
    """The words of a field's label and key."""
    return set(re.findall(r"[^\W\d_]+", f"{field.label} {field.key}".casefold()))


def roles_of(fields: Sequence[Field], told: Sequence[str] = (), *, is_in_files: bool = False) -> dict[str, str]:
    """The roles that fields play which are called otherwise: role by the key of the field.

    Args:
        fields: of the place; told: what the person said of them, "source=address".
        is_in_files: whether its entries are notes.
    """
    said = dict(line.rsplit("=", 1) for line in told if "=" in line)
    out = {one.key: said[one.key] for one in fields if one.key in said}
    taken = set(out.values())
    for role in ROLES:
        if role in taken or any(one.key == role and said.get(one.key, role) == role for one in fields):
            continue
        free = [
            one
            for one in fields
            if one.is_writable and one.key not in out and one.key not in ROLES and one.key != "title"
        ]
        found = best_for(role, free, is_in_files=is_in_files)
        if found is not None:
            out[found.key] = role
    return out


def best_for(role: str, fields: Sequence[Field], *, is_in_files: bool) -> Field | None:
    """The field that is called as one for a role, and can hold it; of addresses, else the first."""
    called = set(ROLES[role][1].split()) | set(OF_NOTES.get(role, "").split() if is_in_files else ())
    can = [one for one in fields if CAN_BE[role](one)]
    named = next((one for one in can if words_of(one) & called), None)
    if role != "address" or named is not None:
        return named
    return next(iter(can), None) or next(
        (one for one in fields if is_plain(one) and words_of(one) & SURE_ADDRESSES), None
    )


def said_of(role: str) -> str:
    """What is said of a field that plays a role."""
    return f"taken for the {ROLES[role][0]}" if role in ROLES else ""


def with_role(told: Sequence[str], key: str, role: str) -> tuple[str, ...]:
    """What a person has said of roles, with one field's more; a role is played by one field.

    Args:
        role: NOTHING: none; "": what its name tells.
    """
    lines = [one for one in told if one.rpartition("=")[0] != key]
    if role != NOTHING:
        lines = [one for one in lines if one.rpartition("=")[2] != role]
    return (*lines, f"{key}={role}") if role else tuple(lines)
