"""How a picture climbs from a coarse first one to a settled one.

Pure decisions, no I/O: given what has been measured, which film is filled next and how far.
"""

import math
from dataclasses import dataclass

FIRST_PICTURE_SECONDS = 0.012
"""Of tracing: as long again is for the denoiser."""
LOOK_SECONDS = 0.02
"""What developing and encoding a picture may take when only the look has changed."""
TIME_TO_SPARE = 0.6
LEAST_SCALE = 1 / 6
LEAST_COARSE_SCALE = 1 / 8
"""Of the first picture, which is denoised: a smaller one is there sooner and loses little."""
COARSE_SAMPLES = 3
FIRST_WHOLE_SECONDS = 0.7
"""How long after an edit the first picture of the whole frame should be there, denoised."""
MOST_FIRST_SAMPLES = 4
MIDDLE_SECONDS = 0.3
"""What one sample of a picture between the coarse and the whole one may take, before it is denoised."""
WORTH_A_CLIMB = 2.0
"""How many times wider than the coarse picture the one in the middle is at least."""
LONGEST_PASS_SECONDS = 1.0


@dataclass
class Speed:
    """Seconds that one sample of one pixel takes, a running mean."""

    seconds_per_sample: float = 6e-7
    latest: float = 0.0
    """The same of the last pass alone: an edit may have made all the difference."""

    def learn(self, pixel_samples: int, seconds: float) -> None:
        """Take in a measured pass."""
        if pixel_samples > 0 and seconds > 0:
            self.latest = measured = seconds / pixel_samples
            # One pass that something else slowed down must not make the next pictures small.
            rate = 0.4 if measured < self.seconds_per_sample else 0.15
            self.seconds_per_sample += rate * (measured - self.seconds_per_sample)


def coarse_size(width: int, height: int, speed: Speed) -> tuple[int, int]:
    """Size of the first picture: what one sample fills in FIRST_PICTURE_SECONDS, never below 1/8 of the width."""
    affordable = FIRST_PICTURE_SECONDS / max(speed.seconds_per_sample, 1e-12)
    scale = min(max((affordable / (width * height)) ** 0.5, LEAST_COARSE_SCALE), 1.0)
    return max(round(width * scale), 16), max(round(height * scale), 16)


def middle_size(width: int, height: int, coarse_width: int, speed: Speed) -> tuple[int, int] | None:
    """Size of a picture between the coarse and the whole one, if the whole one is far off and it is worth it.

    `speed` is that of the coarse picture, whose samples take about twice as long as those of a whole one.
    """
    expected = width * height * speed.latest
    if expected <= 2 * FIRST_WHOLE_SECONDS:
        return None
    # On the slowest scenes it takes longer than it should, and the whole picture longer yet.
    scale = max((MIDDLE_SECONDS / expected) ** 0.5, WORTH_A_CLIMB * coarse_width / width)
    return (round(width * scale), round(height * scale)) if scale < 1 else None


def block_side(width: int, height: int, speed: Speed, before: int = 1) -> int:
    """Side of the blocks of pixels that are joined to one, so that a picture of that size is made in LOOK_SECONDS.

    From the side used `before` it shrinks only when there is time to spare: a picture whose sharpness comes and goes
    is worse than one that is a little less sharp.
    """

    def seconds(side: int) -> float:
        return width * height / side**2 * speed.seconds_per_sample

    largest = max(min(int(1 / LEAST_SCALE), width, height), 1)
    side = next((s for s in range(1, largest) if seconds(s) <= LOOK_SECONDS), largest)
    if side < before <= largest and seconds(side) > TIME_TO_SPARE * LOOK_SECONDS:
        return before
    return side


def next_samples(done: int, wanted: int, pixels: int, speed: Speed) -> int:
    """Samples to bring a film to in the next pass: doubling, but no pass longer than LONGEST_PASS_SECONDS."""
    affordable = int(LONGEST_PASS_SECONDS / max(pixels * speed.seconds_per_sample, 1e-12))
    step = max(min(max(done, 1), affordable), 1)
    return min(done + step, wanted)


def first_whole_samples(pixels: int, tracing: Speed, denoising: Speed, elapsed: float) -> int:
    """Samples of the first picture of the whole frame, `elapsed` seconds after the edit: what there is time for."""
    left = FIRST_WHOLE_SECONDS - elapsed - pixels * denoising.seconds_per_sample
    affordable = left / max(pixels * tracing.seconds_per_sample, 1e-12)
    return min(max(int(affordable), 1), MOST_FIRST_SAMPLES)


def within(size: tuple[int, int], most_pixels: int) -> tuple[int, int]:
    """A size of the same shape that has at most so many pixels."""
    width, height = size
    if width * height <= most_pixels:
        return size
    scale = math.sqrt(most_pixels / (width * height))
    return max(int(width * scale), 1), max(int(height * scale), 1)


def frame_size(room: tuple[int, int], printed: tuple[int, int], scale: str, largest: int) -> tuple[int, int]:
    """Pixels of the frame: of the print's shape, as large as fits the room, or the given part of the print."""
    if scale == "fit":
        factor = min(room[0] / printed[0], room[1] / printed[1])
    else:
        factor = {"1": 1.0, "1/2": 0.5, "1/4": 0.25}[scale]
    factor = min(factor, largest / max(printed))
    return max(round(printed[0] * factor), 16), max(round(printed[1] * factor), 16)


def loupe_region(loupe: tuple[float, float, float, float], width: int, height: int) -> tuple[int, int, int, int]:
    """Pixels (x, y, width, height) of a region given as shares (left, top, right, bottom); at least one pixel."""
    left, top = min(int(loupe[0] * width), width - 1), min(int(loupe[1] * height), height - 1)
    right, bottom = max(round(loupe[2] * width), left + 1), max(round(loupe[3] * height), top + 1)
    return left, top, min(right, width) - left, min(bottom, height) - top


def fitted_size(width: int, height: int, bytes_a_pixel: float, budget: int | None) -> tuple[int, int]:
    """Pixels that a picture is shrunk to so that it has about `budget` bytes; never below 1/6 of the width."""
    if budget is None or width * height * bytes_a_pixel <= budget:
        return width, height
    scale = max((budget / (width * height * bytes_a_pixel)) ** 0.5, LEAST_SCALE)
    return max(round(width * scale), 16), max(round(height * scale), 16)
