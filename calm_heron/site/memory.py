"""What was worked out and may be asked for again is remembered here, and nowhere else.

A key says everything that the answer depends on, versions of rows included: nothing is ever stale, it is only forgotten. What other
processes may change without a version in the key is remembered for one request alone.
"""

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from threading import Lock
from typing import Any, Generic, TypeVar

import numpy as np
from asgiref.local import Local
from django.core.signals import request_started

Value = TypeVar("Value")


class Memory(Generic[Value]):
    """Answers by their keys, at most so many; those not asked for longest go first."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._known: OrderedDict[Hashable, Value] = OrderedDict()

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """The answer to a key, made where it is not known; two that ask at once may both make it."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        made = make()
        with self._lock:
            self._known[key] = made
            if len(self._known) > self._most:
                self._known.popitem(last=False)
        return made

    def forget(self) -> None:
        """Everything."""
        with self._lock:
            self._known.clear()


class RowMemory(Memory[Value]):
    """Answers that ids of rows are in the keys of: in another database the same ids are other rows, and all of them are forgotten."""

    def __init__(self, most: int) -> None:
        super().__init__(most)
        _of_rows.append(self)


_of_rows: list[Memory[Any]] = []


def forget_rows() -> None:
    """Forget what is known of rows; for another database (tests)."""
    for memory in _of_rows:
        memory.forget()


def digest_of(value: object) -> bytes:
    """A key for what has none: everything that a dataclass, or a tuple of them, is made of, arrays by their content."""
    digest = hashlib.blake2b(digest_size=20)

    def take(part: object) -> None:
        if is_dataclass(part) and not isinstance(part, type):
            digest.update(type(part).__qualname__.encode())
            for field in fields(part):
                take(getattr(part, field.name))
        elif isinstance(part, np.ndarray):
            digest.update(f"{part.dtype}{part.shape}".encode())
            digest.update(np.ascontiguousarray(part).data)
        elif isinstance(part, tuple | list):
            digest.update(f"{len(part)}(".encode())
            for inner in part:
                take(inner)
        else:
            digest.update(repr(part).encode() + b";")

    take(value)
    return digest.digest()


class RequestMemory(Generic[Value]):
    """Answers by their keys until the next request begins, or until :meth:`forget` after a change."""

    def __init__(self) -> None:
        self._local = Local()
        request_started.connect(self._at_a_request, weak=False)

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """The answer to a key, made where it is not known."""
        known: dict[Hashable, Value] | None = getattr(self._local, "known", None)
        if known is None:
            known = self._local.known = {}
        if key not in known:
            known[key] = make()
        return known[key]

    def forget(self) -> None:
        """Everything of this request."""
        self._local.known = {}

    def _at_a_request(self, **_: object) -> None:
        self.forget()
