"""Levels that must hold: fades that do not dip, and sound that stays within full scale."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d, uniform_filter1d

from usagi.core.audio import RATE_HZ, Sound

LOOK_S: Final = 0.005  # either side of a peak in which the level goes down to it and comes back
MOST_UNLIKE: Final = -0.5  # of two sounds that are faded: more would lift the fade by over 6 dB


def fade_gain(one: Sound, other: Sound, share: NDArray[np.float32]) -> NDArray[np.float32]:
    """The gain that keeps the level of a fade between two sounds, from how alike they were measured to be.

    Parameters
    ----------
    one, other : equal shapes; what is faded out and what is faded in.
    share : of the other, 0 to 1, for every frame of the fade.

    Returns : float32, one for every share. With c the correlation the mix has the power
    (1 - s)^2 + s^2 + 2 c s (1 - s) of either.
    """
    norm = float(np.sqrt((one.astype(np.float64) ** 2).sum() * (other.astype(np.float64) ** 2).sum()))
    alike = float((one * other).sum() / norm) if norm > 0 else 1.0
    alike = min(1.0, max(MOST_UNLIKE, alike))
    power = (1 - share) ** 2 + share**2 + 2 * alike * share * (1 - share)
    return (1 / np.sqrt(power)).astype(np.float32)


def limited(sound: Sound) -> Sound:
    """The sound within full scale: where it would leave it, all channels go down together, 5 ms ahead, and come back.

    What a place becomes depends on 10 ms either side of it only, so pieces that are cut apart agree. Sound that stays
    within -1 to 1 comes back as it is.

    Parameters
    ----------
    sound : float32, shape (frames, channels).

    Returns : the same shape, within -1 to 1.

    >>> limited(np.array([[0.5], [2.0]], np.float32)).max()
    np.float32(1.0)
    """
    peak = np.abs(sound).max(axis=1, initial=0.0)
    if not (peak > 1.0).any():
        return sound
    reach = round(LOOK_S * RATE_HZ)
    lowest = minimum_filter1d(1 / np.maximum(peak, 1.0), 2 * reach + 1, mode="nearest")
    # A mean over the same reach, of which no part asks for less than the peak in its middle does; twice half of it, so
    # that the gain has no corners.
    gain = uniform_filter1d(uniform_filter1d(lowest, reach + 1, mode="nearest"), reach + 1, mode="nearest")
    out: Sound = np.clip(sound * gain[:, None], -1, 1).astype(np.float32)  # what is clipped is what rounding left over
    return out
