"""Dataclasses to plain JSON values and back; floats are rounded to a thousandth of a px so that files are stable."""

from __future__ import annotations

import dataclasses
import types
from functools import cache
from typing import Any, TypeVar, Union, get_args, get_origin, get_type_hints

T = TypeVar("T")


def to_json(value: Any) -> Any:
    """A JSON-ready copy of a dataclass, list, dict or scalar."""
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {f.name: to_json(getattr(value, f.name)) for f in dataclasses.fields(value)}
    if isinstance(value, (list, tuple)):
        return [to_json(v) for v in value]
    if isinstance(value, dict):
        return {str(k): to_json(v) for k, v in value.items()}
    if isinstance(value, float):
        return round(value, 3)
    if hasattr(value, "item"):
        return to_json(value.item())
    return value


@cache
def _hints(cls: type) -> dict[str, Any]:
    return get_type_hints(cls)


def from_json(cls: Any, value: Any) -> Any:
    """Rebuild what `to_json` made of an instance of `cls`, now or before fields with a default were added. ValueError if a
    field without one is missing."""
    origin = get_origin(cls)
    if origin in (Union, types.UnionType):
        if value is None:
            return None
        return from_json(next(a for a in get_args(cls) if a is not type(None)), value)
    if dataclasses.is_dataclass(cls) and isinstance(cls, type):
        hints = _hints(cls)
        try:
            return cls(
                **{
                    f.name: from_json(hints[f.name], value[f.name])
                    for f in dataclasses.fields(cls)
                    if f.name in value or (f.default is f.default_factory is dataclasses.MISSING)
                }
            )
        except (KeyError, TypeError) as e:
            raise ValueError(f"not a {cls.__name__}: {e}") from e
    if origin is tuple:
        args = get_args(cls)
        if len(args) == 2 and args[1] is Ellipsis:
            return tuple(from_json(args[0], v) for v in value)
        return tuple(from_json(a, v) for a, v in zip(args, value, strict=True))
    if origin is list:
        return [from_json(get_args(cls)[0], v) for v in value]
    if origin is dict:
        key, item = get_args(cls)
        return {key(k): from_json(item, v) for k, v in value.items()}
    return float(value) if cls is float else value
