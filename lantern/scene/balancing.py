"""Balance: how much of each light group the finished picture has, as settings, and baked into the lights.

In: a document. Out: factors, patches. Called by the picture's making and the render host.
"""

from collections.abc import Sequence
from typing import Any

from lantern.scene.document import Fader, Scene
from lantern.scene.making import Made

ENVIRONMENT, EMISSIVE = "environment", "emissive"
"""Names of the light groups that are always there."""


def factor_of(fader: Fader | None) -> tuple[float, float, float]:
    """RGB factor of a light group."""
    if fader is None:
        return 1.0, 1.0, 1.0
    level = 2.0**fader.stops if fader.enabled else 0.0
    red, green, blue = fader.tint
    return level * red, level * green, level * blue


def is_balanced(scene: Scene) -> bool:
    """Whether any light group is shown otherwise than it is lit."""
    return any(factor_of(fader) != (1.0, 1.0, 1.0) for fader in scene.balance.values())


def factors(scene: Scene, groups: Sequence[str]) -> list[tuple[float, float, float]]:
    """RGB factors of light groups, by their names."""
    return [factor_of(scene.balance.get(name)) for name in groups]


def baked(scene: Scene) -> Made:
    """The patch that gives the lights themselves what the faders say, and takes those away.

    What has a colour by its channels keeps it times the tint; an amount takes the level and the tint's luminance.
    """
    patch: list[dict[str, Any]] = []
    for key, light in scene.lights.items():
        factor = factor_of(scene.balance.get(light.group))
        if factor == (1.0, 1.0, 1.0):
            continue
        amount, color = _shared(light.amount, light.color, factor)
        at = f"/lights/{key}"
        patch += [_replace(f"{at}/amount", min(amount, 1e9)), _replace(f"{at}/color", list(color))]
    factor = factor_of(scene.balance.get(ENVIRONMENT))
    if factor != (1.0, 1.0, 1.0):
        intensity, tint = _shared(scene.environment.intensity, scene.environment.tint, factor, keeps=True)
        patch += [_replace("/environment/intensity", intensity), _replace("/environment/tint", list(tint))]
    factor = factor_of(scene.balance.get(EMISSIVE))
    if factor != (1.0, 1.0, 1.0):
        for key, material in scene.materials.items():
            level, tint = _shared(material.emission_luminance, material.emission_color, factor, keeps=True)
            at = f"/materials/{key}"
            if material.emission_luminance > 0:
                patch += [_replace(f"{at}/emission_luminance", min(level, 1e6))]
            if material.emission_lumens is not None:
                patch += [_replace(f"{at}/emission_lumens", min(material.emission_lumens * max(factor), 1e9))]
            if material.emission_luminance > 0 or material.emission_lumens is not None:
                patch += [_replace(f"{at}/emission_color", list(tint))]
    if scene.balance:
        patch.append(_replace("/balance", {}))
    return Made("", "Balance baked into the lights", patch)


_LUMINANCE = (0.2126, 0.7152, 0.0722)


def _shared(
    amount: float, color: Sequence[float], factor: Sequence[float], *, keeps: bool = False
) -> tuple[float, tuple[float, ...]]:
    """(amount, colour) whose light is that of before times a factor.

    A light's colour is taken at luminance 1, so that its amount says how much there is; where a colour `keeps` its
    own brightness, the amount takes the largest channel of the factor.
    """
    most = max(*factor, 1e-12)
    if keeps:
        return amount * most, tuple(c * f / most for c, f in zip(color, factor, strict=True))
    before = sum(w * c for w, c in zip(_LUMINANCE, color, strict=True))
    tinted = tuple(c * f / most for c, f in zip(color, factor, strict=True))
    after = sum(w * c for w, c in zip(_LUMINANCE, tinted, strict=True))
    return amount * most * (after / before if before > 0 else 1.0), tinted if after > 0 else tuple(color)


def _replace(path: str, value: object) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}
