"""Clips seen with less than all there is, so that a network trusts no single mark of the kits it learns from.

Bands and moments are hidden (after Park et al. 2019, who do so with speech), and whole parts of a patch, and each clip
is moved a little in pitch. Needs PyTorch.
"""

import torch

_MOVED_SHARE, _MOST_MOVED = 0.7, 1.2  # clips that are moved, and by how many bands at most
_HIDDEN_SHARE, _BANDS, _MOMENTS = 0.35, (3, 8), (1, 4)  # of clips; how many bands, and how many moments, are hidden
_PART_SHARE = 0.12  # of clips, for each part: fine low bands, envelopes, levels


def hidden(x: torch.Tensor, parts: tuple[int, ...], bands: int) -> torch.Tensor:
    """The patches of some clips, (clips, n, size), with less to be seen; what is hidden is as the clip is on average.

    Parameters
    ----------
    parts
        How many numbers each part of a patch has, as in `signal/patches.py`.
    """
    clips, n, size = x.shape
    fine, context = parts[0], parts[-1]
    moved, mean = _moved_by(clips, bands), x.mean(dim=1, keepdim=True)
    out = x.clone()
    for a, b in ((0, fine), (size - context, size)):
        out[:, :, a:b] = (out[:, :, a:b].reshape(clips, -1, bands) @ moved).reshape(clips, n, b - a)
    moments = fine // bands
    gone = _some(clips, moments, _MOMENTS)[:, :, None] | _some(clips, bands, _BANDS)[:, None, :]
    out[:, :, :fine] = torch.where(gone.reshape(clips, 1, fine), mean[:, :, :fine], out[:, :, :fine])
    a = fine
    for length in parts[1:4]:
        lost = torch.rand(clips, 1, 1) < _PART_SHARE
        out[:, :, a : a + length] = torch.where(lost, mean[:, :, a : a + length], out[:, :, a : a + length])
        a += length
    return out


def _moved_by(clips: int, bands: int) -> torch.Tensor:
    """By what bands are multiplied to be moved up or down, (clips, bands, bands): between two of them both count."""
    by = torch.where(torch.rand(clips) < _MOVED_SHARE, (2 * torch.rand(clips) - 1) * _MOST_MOVED, torch.zeros(clips))
    place = (torch.arange(bands) + by[:, None]).clamp(0, bands - 1)
    return (1 - (torch.arange(bands)[None, :, None] - place[:, None, :]).abs()).clamp(min=0)


def _some(clips: int, count: int, width: tuple[int, int]) -> torch.Tensor:
    """Neighbours that are hidden together in some of the clips, (clips, count) of truth."""
    wide = torch.randint(width[0], width[1] + 1, (clips, 1))
    start = (torch.rand(clips, 1) * (count - wide)).floor()
    at = torch.arange(count)[None]
    return (at >= start) & (at < start + wide) & (torch.rand(clips, 1) < _HIDDEN_SHARE)
