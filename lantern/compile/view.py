"""What one picture shows of a compiled scene: from which camera, in which way of looking."""

from dataclasses import dataclass
from enum import StrEnum

from lantern.rays.layout import (
    ALBEDO,
    BOTH,
    CHECKER,
    DEPTH,
    DRAFT,
    NORMALS,
    OCCLUSION,
    PARTS,
    REFLECTANCE,
    SPHERE,
    WIRES,
)
from lantern.scene.document import Camera


class Way(StrEnum):
    """A way of looking at the scene."""

    PROOF = "proof"
    DRAFT = "draft"
    CLAY = "clay"
    SPHERE = "sphere"
    NORMALS = "normals"
    CHECKER = "checker"
    PARTS = "parts"
    DEPTH = "depth"
    OCCLUSION = "occlusion"
    ALBEDO = "albedo"
    REFLECTANCE = "reflectance"
    LUMINANCE = "luminance"
    ILLUMINANCE = "illuminance"

    @property
    def follows_paths(self) -> bool:
        """Whether it is made by the path tracer, like the proof."""
        return self in (Way.PROOF, Way.CLAY, Way.LUMINANCE, Way.ILLUMINANCE)

    @property
    def measures(self) -> bool:
        """Whether it is shown in false colours with a scale."""
        return self in (Way.LUMINANCE, Way.ILLUMINANCE)

    @property
    def shows_light(self) -> bool:
        """Whether its pixels are cd/m², for the look to expose; otherwise they are display values, linear."""
        return self in (Way.PROOF, Way.CLAY, Way.LUMINANCE, Way.ILLUMINANCE, Way.DRAFT)


LABELS = {
    Way.PROOF: "Proof",
    Way.DRAFT: "Draft",
    Way.CLAY: "Clay",
    Way.SPHERE: "Lit sphere",
    Way.NORMALS: "Normals",
    Way.CHECKER: "UV checker",
    Way.PARTS: "Part colours",
    Way.DEPTH: "Depth",
    Way.OCCLUSION: "Ambient occlusion",
    Way.ALBEDO: "Albedo check",
    Way.REFLECTANCE: "Reflectance in even light",
    Way.LUMINANCE: "Luminance",
    Way.ILLUMINANCE: "Illuminance",
}
SAMPLES = {Way.DRAFT: 32, Way.OCCLUSION: 128, Way.REFLECTANCE: 128}
"""Samples after which a way has settled that is not made by the path tracer; EVEN_SAMPLES where not named."""
EVEN_SAMPLES = 8


_NUMBERS = {
    Way.DRAFT: DRAFT,
    Way.SPHERE: SPHERE,
    Way.NORMALS: NORMALS,
    Way.CHECKER: CHECKER,
    Way.PARTS: PARTS,
    Way.DEPTH: DEPTH,
    Way.OCCLUSION: OCCLUSION,
    Way.ALBEDO: ALBEDO,
    Way.REFLECTANCE: REFLECTANCE,
}


@dataclass(frozen=True)
class View:
    """One camera and one way; `wires` asks for the lines of the mesh alone.

    `estimator` is BOTH but for tests, which ask whether each technique alone gives the same mean.
    """

    camera: Camera
    way: Way = Way.PROOF
    wires: bool = False
    estimator: int = BOTH

    @property
    def follows_paths(self) -> bool:
        """Whether the path tracer makes it."""
        return self.way.follows_paths and not self.wires

    @property
    def number(self) -> int:
        """What to tell the looking kernel."""
        return WIRES if self.wires else _NUMBERS[self.way]

    def wanted_samples(self, proof_samples: int) -> int:
        """Samples of a settled picture."""
        if self.wires:
            return EVEN_SAMPLES
        return proof_samples if self.way.follows_paths else SAMPLES.get(self.way, EVEN_SAMPLES)
