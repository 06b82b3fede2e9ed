"""Keys by hand: a value of the document gets a track, and keys at moments.

In: the document, places of it. Out: patches, and what places with a track are like at the moment that is shown. Called
by the render host. A window that changes such a place sets its key there: the place itself is not seen any more.
"""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from pydantic import ValidationError

from lantern.motion.moving import moment_of
from lantern.scene.document import Scene
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.motion import MOST_KEYS, MOST_MOVES, Keyed, ValueKey, kind_of
from lantern.scene.patching import Operation, Patch, pointer, replaced
from lantern.scene.variants import is_there, value_at
from lantern.scene.wording import place_said

SAME_MOMENT = 1e-4
"""Seconds within which two moments are one: a thousandth of a frame at 240 a second has a twentieth of it."""


class KeyingError(ValueError):
    """A place cannot be keyed; the message says why."""


def tracks(scene: Scene) -> dict[str, str]:
    """Keys of the moves that say what places are like, by place; of several the one that counts."""
    return {move.path: key for key, move in scene.motion.moves.items() if isinstance(move, Keyed) and move.enabled}


def values_now(scene: Scene) -> dict[str, Any]:
    """What all places with a track are like at the moment that is shown."""
    found = tracks(scene)
    times = {key: [each.time for each in move.keys] for key, move in _keyed(scene)}
    now = moment_of(scene, scene.shutter.time, times).scene if found else scene
    return {path: value_at(now, path) for path in found if is_there(now, path)}


def _keyed(scene: Scene) -> Iterator[tuple[str, Keyed]]:
    return ((key, move) for key, move in scene.motion.moves.items() if isinstance(move, Keyed))


def toggled(scene: Scene, paths: Sequence[str]) -> Made:
    """The patch that gives places a key at the moment that is shown, or takes those away that they have there.

    A place without a track gets one; one whose last key goes is what it was before. Raises KeyingError for what cannot
    move: a word, something that is gone.
    """
    have, now, moment = tracks(scene), values_now(scene), scene.shutter.time
    here = {path: _at(scene, have[path], moment) for path in paths if path in have}
    removes = len(here) == len(paths) and all(place is not None for place in here.values())
    patch: Patch = []
    taken = set(scene.motion.moves)
    for path in paths:
        if path not in have:
            key, _ = free_key(taken, "move")
            taken.add(key)
            patch.append(_track(scene, key, path, moment, len(taken)))
        elif removes:
            patch.append(_without(scene, have[path], here[path]))
        else:
            patch.append(_with(scene, have[path], moment, now.get(path, value_at(scene, path))))
    said = place_said(scene, paths[0]) if paths else "nothing"
    return Made("", f"{'No key' if removes else 'Key'}: {said}"[:200], patch)


def pasted(scene: Scene, move: str, keys: Sequence[ValueKey]) -> Made:
    """The patch that lays keys into a track, the first of them at the moment that is shown, over what is there.

    Raises KeyingError where the track is gone, its values are of another kind, or it would have too many keys.
    """
    if not isinstance(scene.motion.moves.get(move), Keyed):
        raise KeyingError("This track is gone: choose another one.")
    track = _of(scene, move)
    later = scene.shutter.time - keys[0].time
    laid = [key.model_copy(update={"time": round(key.time + later, 6)}) for key in keys]
    stays = [key for key in track.keys if all(abs(key.time - one.time) >= SAME_MOMENT for one in laid)]
    both = sorted([*stays, *laid], key=lambda key: key.time)
    if len(both) > MOST_KEYS:
        raise KeyingError(f"{track.name} would have {len(both):,} keys, and {MOST_KEYS:,} are the most.")
    if len({kind_of(key.value) for key in (*track.keys, *laid)}) > 1:
        raise KeyingError(f"These keys do not fit {track.name}: its values are of another kind.")
    value = [key.model_dump(mode="json") for key in both]
    said = "Paste a key" if len(keys) == 1 else f"Paste {len(keys)} keys"
    return Made(move, f"{said}: {track.name}"[:200], [replaced(pointer("motion", "moves", move, "keys"), value)])


def _track(scene: Scene, key: str, path: str, moment: float, moves: int) -> Operation:
    if moves > MOST_MOVES:
        raise KeyingError(f"There are {MOST_MOVES} moves already: remove one first.")
    if not is_there(scene, path):
        raise KeyingError("This is gone: it cannot move.")
    value = value_at(scene, path)
    try:
        keys = (ValueKey(time=moment, value=value),)
        move = Keyed(name=place_said(scene, path)[:200], path=path, keys=keys)
    except ValidationError as error:
        raise KeyingError(
            f"{place_said(scene, path)} cannot move: it is neither a number, a colour nor a switch."
        ) from error
    return {"op": "add", "path": pointer("motion", "moves", key), "value": move.model_dump(mode="json")}


def _at(scene: Scene, move: str, moment: float) -> int | None:
    """Which key of a track stands at a moment."""
    keys = _of(scene, move).keys
    return next((n for n, key in enumerate(keys) if abs(key.time - moment) < SAME_MOMENT), None)


def _of(scene: Scene, move: str) -> Keyed:
    found = scene.motion.moves[move]
    assert isinstance(found, Keyed)
    return found


def _with(scene: Scene, move: str, moment: float, value: Any) -> Operation:
    """A key at a moment; what stands there already keeps how it goes on."""
    track, place = _of(scene, move), _at(scene, move, moment)
    keys = [key.model_dump(mode="json") for key in track.keys]
    if place is not None:
        keys[place]["value"] = value
    else:
        if len(keys) >= MOST_KEYS:
            raise KeyingError(f"{track.name} has {MOST_KEYS:,} keys already: remove one first.")
        before = [key for key in track.keys if key.time < moment]
        as_before: Mapping[str, Any] = {"to_next": before[-1].model_dump(mode="json")["to_next"]} if before else {}
        keys.append({"time": moment, "value": value, "to_next": "line", **as_before})
        keys.sort(key=lambda key: key["time"])
    return replaced(pointer("motion", "moves", move, "keys"), keys)


def _without(scene: Scene, move: str, place: int | None) -> Operation:
    keys = [key.model_dump(mode="json") for n, key in enumerate(_of(scene, move).keys) if n != place]
    if not keys:
        return {"op": "remove", "path": pointer("motion", "moves", move)}
    return replaced(pointer("motion", "moves", move, "keys"), keys)
