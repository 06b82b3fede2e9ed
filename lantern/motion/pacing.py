"""How much of a move is done after a share of its time. Called by whatever moves."""

from lantern.scene.motion import Pace


def paced(share: float, pace: Pace) -> float:
    """How much of a move is done after a share [0, 1] of its time."""
    u = min(max(share, 0.0), 1.0)
    match pace:
        case "soft":
            return u * u * (3.0 - 2.0 * u)
        case "in":
            return u * u
        case "out":
            return 1.0 - (1.0 - u) ** 2
    return u
