"""Which of the lights of a document shine: all that are on, or those that are alone.

Called by whatever makes tables of them.
"""

from lantern.scene.document import Scene
from lantern.scene.lights import Light


def lit_lights(scene: Scene) -> dict[str, Light]:
    """The lights that shine, by key; a light that is alone puts out all others, and the environment with them."""
    on = {key: light for key, light in scene.lights.items() if light.enabled}
    return {key: light for key, light in on.items() if light.solo} or on


def environment_intensity(scene: Scene) -> float:
    """Factor on the environment and the sun: 0 while some light is alone."""
    is_out = any(light.enabled and light.solo for light in scene.lights.values())
    return 0.0 if is_out else scene.environment.intensity
