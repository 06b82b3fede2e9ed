"""JSON Patch (RFC 6902) on JSON data, with the patch that takes it back.

In: JSON data and operations add, replace, remove and test; move and copy are refused, as a document could be doubled
with each. Out: new data that shares with the old what was not touched, so that an edit costs what it changes, and the
inverse operations; the difference of two documents. Raises PatchError. Called by `reading` and `history`.
"""

from collections.abc import Iterator
from typing import Any

Operation = dict[str, Any]
Patch = list[Operation]


class PatchError(ValueError):
    """An operation is malformed or does not fit the data; the message names its path and what was expected."""


def replaced(path: str, value: Any) -> Operation:
    """The operation that puts a value in the place of another."""
    return {"op": "replace", "path": path, "value": value}


def apply_operations(data: Any, patch: Patch) -> tuple[Any, Patch]:
    """(patched data, inverse patch); the data given is left as it was. Raises PatchError."""
    inverse: Patch = []
    for operation in patch:
        data, undo = _applied(data, operation)
        inverse = undo + inverse
    return data, inverse


def difference(before: Any, after: Any, path: str = "", depth: int = 1000) -> Patch:
    """Operations from one document to another: one for each key of an object, lists and other values as a whole.

    Objects deeper than `depth` are other values as well.
    """
    if before is after:
        return []
    if depth == 0 or not (isinstance(before, dict) and isinstance(after, dict)):
        return [] if before == after else [{"op": "replace", "path": path, "value": after}]
    return list(_differences(before, after, path, depth - 1))


def _differences(before: dict[str, Any], after: dict[str, Any], path: str, depth: int) -> Iterator[Operation]:
    for key in before:
        if key not in after:
            yield {"op": "remove", "path": f"{path}/{_escaped(key)}"}
    for key, value in after.items():
        at = f"{path}/{_escaped(key)}"
        if key in before:
            yield from difference(before[key], value, at, depth)
        else:
            yield {"op": "add", "path": at, "value": value}


def _applied(data: Any, operation: Any) -> tuple[Any, Patch]:
    kind, path, value = _checked(operation)
    *way, last = steps_of(path)
    containers = [data]
    for step in way:
        containers.append(_child(containers[-1], step, path))
    changed, inverse = _in_container(containers[-1], last, kind, value, path)
    for container, step in zip(reversed(containers[:-1]), reversed(way), strict=True):
        outer = container.copy()
        outer[_index(container, step, path) if isinstance(container, list) else step] = changed
        changed = outer
    return changed, inverse


def _checked(operation: Any) -> tuple[str, str, Any]:
    """(op, path, value) of a well-formed operation."""
    if not isinstance(operation, dict):
        raise PatchError(f"an operation must be an object, not {type(operation).__name__}")
    kind, path = operation.get("op"), operation.get("path")
    if kind not in ("add", "replace", "remove", "test"):
        raise PatchError(f"op must be add, replace, remove or test, not {kind!r:.40}")
    if not isinstance(path, str) or not path.startswith("/"):
        raise PatchError(f"path must be a JSON Pointer that begins with a slash, not {path!r:.80}")
    if kind != "remove" and "value" not in operation:
        raise PatchError(f"{path}: {kind} needs a value")
    return kind, path, operation.get("value")


def _in_container(container: Any, step: str, kind: str, value: Any, path: str) -> tuple[Any, Patch]:
    """(the container with the operation done in it, the inverse operations)."""
    if not isinstance(container, dict | list):
        raise PatchError(f"{path}: there is nothing inside {container!r:.40}")
    if kind == "test":
        if _child(container, step, path) != value:
            raise PatchError(f"{path} is not what the edit was made for")
        return container, []
    changed: Any = container.copy()
    if kind == "add" and isinstance(container, list):
        index = len(container) if step == "-" else _index(container, step, path, room=1)
        changed.insert(index, value)
        return changed, [{"op": "remove", "path": f"{path.rpartition('/')[0]}/{index}"}]
    if kind == "add" and step not in container:
        changed[step] = value
        return changed, [{"op": "remove", "path": path}]
    old = _child(container, step, path)
    at: Any = _index(container, step, path) if isinstance(container, list) else step
    if kind == "remove":
        del changed[at]
        return changed, [{"op": "add", "path": path, "value": old}]
    changed[at] = value
    return changed, [{"op": "replace", "path": path, "value": old}]


def _child(container: Any, step: str, path: str) -> Any:
    if isinstance(container, list):
        return container[_index(container, step, path)]
    if not isinstance(container, dict) or step not in container:
        raise PatchError(f"{path} is not there: no {step!r:.80}")
    return container[step]


def _index(container: list[Any], step: str, path: str, room: int = 0) -> int:
    """The place in a list that a step names; with `room` 1 also the one behind its end."""
    is_number = step.isascii() and step.isdigit() and (step[0] != "0" or step == "0")
    if not is_number or int(step[:12]) >= len(container) + room:
        raise PatchError(f"{path} is not there: the list has {len(container)} entries, not one {step!r:.20}")
    return int(step)


def pointer(*steps: str) -> str:
    """The path of a place, by the keys on the way."""
    return "".join(f"/{_escaped(step)}" for step in steps)


def steps_of(path: str) -> list[str]:
    """The steps of a JSON Pointer (RFC 6901) that begins with a slash."""
    return [step.replace("~1", "/").replace("~0", "~") for step in path.split("/")[1:]]


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
