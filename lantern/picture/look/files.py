"""Looks as files: JSON of the whole, ASC CDL and `.cube` of the grade; tables and configurations that become looks.

In: a look, or a file. Out: a file's bytes, or a look. Called by the server, for files of its people.
"""

import json
from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from lantern.picture.display import TransformError, own_config
from lantern.picture.look.acescct import decoded, encoded
from lantern.picture.look.grade import Grade
from lantern.picture.look.table import processor_of
from lantern.picture.press import check_profile
from lantern.scene.document import Scene
from lantern.scene.look import ColorDecision, Look, LookupTable, OwnTransform
from lantern.scene.looks import NamedLook
from lantern.scene.model import FileRef
from lantern.scene.reading import SceneError, read_scene

CUBE_SIDE = 33
TABLES, DECISIONS, CONFIGS, PROFILES = (".cube",), (".cc", ".ccc", ".cdl"), (".ocio", ".ocioz"), (".icc", ".icm")
WHOLE = ".json"
KINDS = (*TABLES, *DECISIONS, *CONFIGS, *PROFILES, WHOLE)
MOST_WHOLE = 1 << 20
"""Bytes of a look as JSON."""
FORMAT = "lantern-look"


def written_whole(named: NamedLook) -> bytes:
    """A look as JSON, with the version of the document that it is of."""
    scene = Scene(look=named.look)
    data = {"format": FORMAT, "name": named.name, "schema_version": scene.schema_version, "look": scene.plain()["look"]}
    return json.dumps(data, indent=2, ensure_ascii=False).encode()


def written_decision(look: Look, name: str) -> bytes:
    """The colour decision of a look as an ASC CDL 1.2 ColorCorrection."""
    decision = look.decision if look.decision.strength > 0 else ColorDecision()
    transform = ocio.CDLTransform()
    transform.setSlope(decision.slope)
    transform.setOffset(decision.offset)
    transform.setPower(decision.power)
    transform.setSat(decision.saturation)
    transform.setID(name)
    transform.setFirstSOPDescription("On values coded as ACEScct (Academy S-2016-001)")
    group = ocio.GroupTransform([transform])
    return str(group.write(formatName="ColorCorrection", config=ocio.Config.CreateRaw())).encode()


def written_table(look: Look, name: str) -> bytes:
    """The grade of a look, without its places, as a `.cube` from ACEScct to ACEScct."""
    axis = np.linspace(0, 1, CUBE_SIDE)
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")  # red runs fastest
    codes = np.stack([red, green, blue], -1).reshape(1, -1, 3)
    ap1 = decoded(codes)
    config = ocio.Config.CreateFromBuiltinConfig("cg-config-v4.0.0_aces-v2.0_ocio-v2.5")
    light = np.ascontiguousarray(ap1, np.float32)
    config.getProcessor("ACEScg", "Linear Rec.709 (sRGB)").getDefaultCPUProcessor().applyRGB(light)
    Grade(look.model_copy(update={"locals": {}})).apply(light, np.zeros((0, 1, light.shape[1]), np.float32))
    config.getProcessor("Linear Rec.709 (sRGB)", "ACEScg").getDefaultCPUProcessor().applyRGB(light)
    title = name.replace('"', "'")
    head = f'TITLE "{title}"\n# From ACEScct to ACEScct (Academy S-2016-001)\nLUT_3D_SIZE {CUBE_SIDE}\n'
    rows = "\n".join(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in encoded(light)[0].tolist())
    return (head + rows + "\n").encode()


def read_look(path: Path, name: str, sha256: str) -> Look:
    """The look that a file is, or that uses it: a table, a colour decision, a configuration, or a whole look.

    Raises ValueError with what is wrong, of which TransformError is one.
    """
    suffix = Path(name).suffix.lower()
    file = FileRef(sha256=sha256, name=name)
    if suffix in TABLES:
        processor_of(path, "display")
        return Look(table=LookupTable(enabled=True, file=file))
    if suffix in PROFILES:
        check_profile(path)
        return Look(press_profile=file)
    if suffix in DECISIONS:
        return Look(decision=_decision(path))
    if suffix in CONFIGS:
        return Look(own_transform=_transform(path, file))
    if suffix == WHOLE:
        return _whole(path)
    raise ValueError(f"is no look: it can be one of {', '.join(KINDS)}")


def _decision(path: Path) -> ColorDecision:
    try:
        group = ocio.CDLTransform.CreateGroupFromFile(str(path))
    except ocio.Exception as error:
        raise TransformError(" ".join(str(error).replace(str(path), "the file").split())) from error
    for transform in group:
        if isinstance(transform, ocio.CDLTransform):
            slope, offset, power = (
                tuple(v) for v in (transform.getSlope(), transform.getOffset(), transform.getPower())
            )
            return ColorDecision(enabled=True, slope=slope, offset=offset, power=power, saturation=transform.getSat())
    raise TransformError("it holds no colour decision")


def _transform(path: Path, file: FileRef) -> OwnTransform:
    config = own_config(path)
    display = config.getDefaultDisplay()
    if not display:
        raise TransformError("the configuration has no display")
    return OwnTransform(file=file, display=display, view=config.getDefaultView(display))


def _whole(path: Path) -> Look:
    if path.stat().st_size > MOST_WHOLE:
        raise ValueError(f"is larger than a look can be: the limit is {MOST_WHOLE >> 20} MiB")
    try:
        data = json.loads(path.read_text("utf-8"))
    except (UnicodeDecodeError, json.JSONDecodeError) as error:
        raise ValueError(f"is no JSON: {error}") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT or not isinstance(data.get("look"), dict):
        raise ValueError(f'is no look: its "format" must be "{FORMAT}", and its "look" an object')
    try:
        return read_scene({"schema_version": data.get("schema_version"), "look": data["look"]}).look
    except SceneError as error:
        raise ValueError(str(error)) from error


def views_of(path: Path) -> tuple[dict[str, list[str]], list[str]]:
    """(views by display, looks) of a configuration. Raises TransformError."""
    config = own_config(path)
    return {display: list(config.getViews(display)) for display in config.getDisplays()}, list(config.getLookNames())
