"""How the proof climbs from a coarse first picture to a settled one.

Pure decisions, no I/O: given what has been measured, which film is filled next and how far.
"""

from dataclasses import dataclass

FIRST_PICTURE_SECONDS = 0.05
LEAST_SCALE = 1 / 6
COARSE_SAMPLES = 6
LONGEST_PASS_SECONDS = 1.0


@dataclass
class Speed:
    """Seconds that one sample of one pixel takes, a running mean."""

    seconds_per_sample: float = 6e-7

    def learn(self, pixel_samples: int, seconds: float) -> None:
        """Take in a measured pass."""
        if pixel_samples > 0 and seconds > 0:
            measured = seconds / pixel_samples
            # One pass that something else slowed down must not make the next pictures small.
            rate = 0.4 if measured < self.seconds_per_sample else 0.15
            self.seconds_per_sample += rate * (measured - self.seconds_per_sample)


def coarse_size(width: int, height: int, speed: Speed) -> tuple[int, int]:
    """Size of the first picture: what one sample fills in FIRST_PICTURE_SECONDS, never below 1/6 of the width."""
    affordable = FIRST_PICTURE_SECONDS / max(speed.seconds_per_sample, 1e-12)
    scale = min(max((affordable / (width * height)) ** 0.5, LEAST_SCALE), 1.0)
    return max(round(width * scale), 16), max(round(height * scale), 16)


def next_samples(done: int, wanted: int, pixels: int, speed: Speed) -> int:
    """Samples to bring a film to in the next pass: doubling, but no pass longer than LONGEST_PASS_SECONDS."""
    affordable = int(LONGEST_PASS_SECONDS / max(pixels * speed.seconds_per_sample, 1e-12))
    step = max(min(max(done, 1), affordable), 1)
    return min(done + step, wanted)
