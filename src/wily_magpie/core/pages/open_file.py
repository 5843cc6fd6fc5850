"""Pages from files on disk."""

from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.pages.apart import page_of
from wily_magpie.core.pages.files.recognise import Given, media_type_of
from wily_magpie.core.pages.page import LARGEST_PAGE_BYTES, Page


def page_at(path: Path, address: str = "") -> Page:
    """The page in a file.

    Args:
        address: where it came from, if that is known.

    Raises:
        UserError: it is too large, or no page.
        EnvironmentFailure: it cannot be read.
    """
    try:
        with path.open("rb") as file:
            content = file.read(LARGEST_PAGE_BYTES + 1)  # no more of what tells no size, or grows
    except OSError as error:
        raise EnvironmentFailure(
            "file-unread", f"{path} cannot be read: {error.strerror}.", "Check its rights."
        ) from error
    if len(content) > LARGEST_PAGE_BYTES:
        raise UserError("too-large", f"{path} is larger than {LARGEST_PAGE_BYTES // 1_000_000} MB.", "Divide it first.")
    given = Given(content, name=path.name, address=address)
    page = page_of(given)
    if page is None:
        kind = media_type_of(given) or "a file of an unknown kind"
        raise UserError(
            "not-a-page",
            f"{path} is not a page but {kind}.",
            "Save it as HTML, PDF, CSV or text.",
        )
    return page
