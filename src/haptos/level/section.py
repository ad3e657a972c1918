"""The base of every section of a level file."""

from __future__ import annotations

from typing import Annotated, Any, NoReturn, Self, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

Value = TypeVar("Value")


class FrozenDict(dict[str, Value]):
    """A table that stays as it was read."""

    def __hash__(self) -> int:  # type: ignore[override]
        return hash(frozenset(self.items()))

    def _refuse(self, *_: Any, **__: Any) -> NoReturn:
        raise TypeError("found a change of a level's table, which stays as it was read")

    __setitem__ = __delitem__ = __ior__ = _refuse
    clear = pop = popitem = setdefault = update = _refuse

    def __reduce__(self) -> tuple[type[FrozenDict[Value]], tuple[dict[str, Value]]]:
        # By itself a dictionary is pickled empty and filled afterwards.
        return FrozenDict, (dict(self),)


Frozen = Annotated[dict[str, Value], AfterValidator(FrozenDict)]


def _with_reasons(allowed: dict[str, str]) -> dict[str, str]:
    for code, reason in allowed.items():
        if not reason.strip():
            raise ValueError(f"found no reason for '{code}', expected one: {code} = \"why that is meant\"")
    return allowed


# What `check` is not to say, by its code, with the reason.
Allowances = Annotated[Frozen[str], AfterValidator(_with_reasons)]

# Only true and false: "yes", "off" and 1 are other things.
Truth = Annotated[bool, Field(strict=True)]


class Section(BaseModel):
    """A part of the level file; keys that it does not know are errors, and nothing in it can be changed."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    def model_copy(self, *, update: Any = None, deep: bool = False) -> Self:
        """Return a copy with other values, which are checked as those of a file are."""
        if not update:
            return super().model_copy(deep=deep)
        own = {name: getattr(self, name) for name in self.model_fields_set}
        return type(self)(**{**own, **update})


def fields_of(model: type[BaseModel]) -> dict[str, Any]:
    """Return the keys of a section as they are written in the file, with their types."""
    return {field.alias or name: field.annotation for name, field in model.model_fields.items()}
