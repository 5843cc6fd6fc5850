"""The standard library's frozen dataclass, made without writing code.

The standard decorator writes and compiles six methods for each class, a millisecond each; the program has well over a
hundred of them at its start, which was a quarter of it. Here fields are collected by the standard decorator and the
methods are shared by all. A class behaves as a standard frozen one does: `fields`, `replace`, `asdict`, `match` and type
checkers know it.

The standard decorator also has `inspect` loaded, with a parser and a disassembler of Python behind it, and asks it of
nothing but the signature of classes without a docstring. It is loaded when somebody does.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from wily_magpie.core.late import loaded

if TYPE_CHECKING:
    import dataclasses
else:
    dataclasses = loaded("dataclasses", later="inspect")

Made = TypeVar("Made")


def init(self: Any, *args: object, **given: object) -> None:
    """Takes the values of the fields by position and by name.

    Raises:
        TypeError: there are too many, too few, or one that is no field.
    """
    known = self.__dataclass_fields__
    if given or len(args) != len(known):
        self.__dict__.update(completed(type(self), args, given))
    else:
        self.__dict__.update(zip(known, args, strict=True))


def completed(cls: Any, args: tuple[object, ...], given: dict[str, object]) -> dict[str, object]:
    """The values of all fields, those that were not given by their defaults."""
    known = cls.__dataclass_fields__
    if len(args) > len(known):
        raise TypeError(f"{cls.__qualname__} takes {len(known)} values, not {len(args)}")
    values = dict(zip(known, args, strict=False))
    if given and (strange := given.keys() - known.keys() | given.keys() & values.keys()):
        raise TypeError(f"{cls.__qualname__} has no such field, or it was given twice: {', '.join(sorted(strange))}")
    values = {**cls.__usual__, **values, **given}
    if len(values) < len(known):
        missing = [one for one in known.values() if one.name not in values]
        lacking = [one.name for one in missing if one.default_factory is dataclasses.MISSING]
        if lacking:
            raise TypeError(f"{cls.__qualname__} lacks {', '.join(lacking)}")
        values |= {one.name: one.default_factory() for one in missing}
    return values


def values_of(self: Any, is_wanted: Callable[["dataclasses.Field[Any]"], object]) -> list[object]:
    """The values of the fields that are wanted, in their order."""
    return [getattr(self, one.name) for one in self.__dataclass_fields__.values() if is_wanted(one)]


def equals(self: object, other: object) -> Any:
    """Whether both are of one class and have the same values."""
    if other.__class__ is not self.__class__:
        return NotImplemented
    return values_of(self, compared) == values_of(other, compared)


def compared(one: "dataclasses.Field[Any]") -> bool:
    """Whether a field counts where two are compared."""
    return one.compare


def hashed(self: object) -> int:
    """The hash of the values that are compared."""
    return hash(tuple(values_of(self, compared)))


def told(self: object) -> str:
    """As it is written in code."""
    fields = self.__dataclass_fields__.values()  # type: ignore[attr-defined]  # it is one of ours
    shown = ", ".join(f"{one.name}={getattr(self, one.name)!r}" for one in fields if one.repr)
    return f"{type(self).__qualname__}({shown})"


def refuse(self: object, name: str, *_value: object) -> None:
    """Keeps it as it is."""
    raise dataclasses.FrozenInstanceError(f"{type(self).__qualname__} is frozen: {name!r} cannot be changed")


SHARED = {
    "__init__": init, "__eq__": equals, "__hash__": hashed, "__repr__": told, "__setattr__": refuse, "__delattr__": refuse,
}  # fmt: skip


def freeze(*, frozen: bool) -> Callable[[type[Made]], type[Made]]:
    """The decorator: `@dataclass(frozen=True)`; there is no other kind of it."""
    if not frozen:
        raise TypeError("what can be changed is a dataclass of the standard library")

    def make(cls: type[Made]) -> type[Made]:
        dataclasses.dataclass(init=False, repr=False, eq=False)(cls)
        if len(dataclasses.fields(cls)) != len(cls.__dataclass_fields__):  # type: ignore[arg-type, attr-defined]
            raise TypeError(
                f"{cls.__qualname__} has attributes of the class among its fields, which is not served here"
            )
        known = cls.__dataclass_fields__.values()  # type: ignore[attr-defined]  # it has been made just now
        cls.__usual__ = {one.name: one.default for one in known if one.default is not dataclasses.MISSING}  # type: ignore[attr-defined]
        for name, method in SHARED.items():
            if name not in cls.__dict__:
                setattr(cls, name, method)
        return cls

    return make


if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass  # noqa: PLC0414  # what is given on
else:
    dataclass = freeze
