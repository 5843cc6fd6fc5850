"""What a person has said of a place, as JSON of the database."""

import json
from dataclasses import asdict

from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.stored_json import read_object


def read_place_settings(text: str) -> PlaceSettings:
    """Settings from their JSON; what a later version may have added is passed over."""
    known = {key: value for key, value in read_object(text).items() if key in PlaceSettings.__dataclass_fields__}
    lists = {
        name: tuple(map(str, told)) if isinstance(told := known.get(name), list) else () for name in ("rules", "roles")
    }
    return PlaceSettings(**{**known, **lists})


def write_place_settings(settings: PlaceSettings) -> str:
    """The JSON of settings."""
    return json.dumps(asdict(settings), ensure_ascii=False)
