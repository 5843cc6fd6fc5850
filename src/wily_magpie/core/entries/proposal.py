"""What the program proposes for a field of a slip, from what was filed before."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class Proposal:
    """One value for one field.

    Attributes:
        key: of the field; value: as it is edited.
        reason: why, such as “like 7 of 8 pages of this site”.
        certainty: how often such proposals were right, 0 to 1; is_sure: whether that is enough to say it.
    """

    key: str
    value: str
    reason: str
    certainty: float
    features: tuple[float, ...] = ()
    """What the certainty is reckoned from, see core.filing.certainty."""
    is_sure: bool = False
