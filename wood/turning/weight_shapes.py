"""Shapes that a bowl's weight may fall in, whatever the wood behind it does: the log itself speaks.

The field of :mod:`wood.drying.field` knows the wood, but a bowl of one's own may not keep to it. Beside it stand five shapes of the excess
of water over what the room brings a bowl to, from 1 at the first weighing to 0: one exponential (Newton's cooling), two of them, a constant
rate that falls from a critical moisture on (as drying is taught), the series of a slab with a skin of air (Crank, *The Mathematics of
Diffusion*; Carslaw and Jaeger), and a stretched exponential (Page 1949; Weibull). None is chosen for a kind of log: each is weighed by
how well it forecast every further weighing from those before it, which is what its evidence is (Jeffreys; Kass and Raftery 1995), and
bands are
of all of them together.

With a shape and its pace given, a log is linear in what the bowl comes to and in what it has to lose: both are summed over exactly. The
rest is sampled by adaptive importance (Cappé and others 2004). A room wanders about its mean, and shapes are not quite the truth, so what
weighings are off by holds together over weeks (an Ornstein and Uhlenbeck process). Priors are our own judgement.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood.arrays import Array

# ln of how far a bowl's pace may lie off what is usual of its size and wood, one standard deviation.
PACE_SPREAD = 0.8
# What a weight wanders by with its room and off its shape, as a share of it, and for how long it does so in one direction, days.
WANDER, WANDER_DAYS = 0.003, 20.0
# What it has to lose is hardly known before it loses it: as a share of the first weight.
LOSS_SPREAD = 0.5
SAMPLES, LAST_SAMPLES, ROUNDS, DRAWS_EACH = 400, 1000, 8, 100
# From where the samples stand for so large a part of themselves the next round is the last.
ENOUGH = 0.35
TERMS = 6


@dataclass(frozen=True)
class Known:
    """What is known of a bowl besides its weights: what it will weigh, kg, and how sure that is (ln, one standard deviation), how many
    days are usual until a third is left of what it has to lose, and how many times its last weight wood full of water weighs."""

    final_kg: float
    final_spread: float
    pace_days: float
    most: float


@dataclass(frozen=True)
class Family:
    """A shape: how many figures it has, and its excess at days (columns) for rows of standard normal figures, the first its pace."""

    name: str
    figures: int
    excess: Callable[[Array, Array], Array]


def _pace(z: Array, days: Array) -> Array:
    """Days in paces: for each row of figures (rows) and each of ``days``, which are in usual paces already."""
    return np.asarray(days[None, :] * np.exp(-PACE_SPREAD * z[:, :1]))


def _logistic(z: Array) -> Array:
    return np.asarray(1.0 / (1.0 + np.exp(-z)))


def _single(z: Array, days: Array) -> Array:
    return np.exp(-_pace(z, days))


def _double(z: Array, days: Array) -> Array:
    """A quick part and a slow one, in any shares."""
    share, times = _logistic(1.2 * z[:, 1:2]), 1.0 + np.exp(1.0 + 0.8 * z[:, 2:3])
    paces = _pace(z, days)
    return share * np.exp(-paces * np.sqrt(times)) + (1 - share) * np.exp(-paces / np.sqrt(times))


def _two_phases(z: Array, days: Array) -> Array:
    """At a constant rate down to a critical excess, then falling, from the same rate or a lower one."""
    critical, drop = _logistic(z[:, 1:2]), np.exp(-0.5 * np.abs(z[:, 2:3]))
    paces = _pace(z, days)
    until = 1 - critical
    later = critical * np.exp(-np.maximum(paces - until, 0.0) * drop / critical)
    return np.where(paces < until, 1 - paces, later)


@lru_cache(maxsize=1)
def _slab_table() -> tuple[Array, Array, Array]:
    """For each ln of the Biot number the rates of a slab's first terms, in those of a slab without a skin, and their shares."""
    numbers = np.linspace(-2.5, 5.0, 76)
    rates, shares = np.empty((numbers.size, TERMS)), np.empty((numbers.size, TERMS))
    for k, biot in enumerate(np.exp(numbers)):
        low, high = np.pi * np.arange(TERMS) + 1e-9, np.pi * (np.arange(TERMS) + 0.5) - 1e-9
        for _ in range(60):
            middle = 0.5 * (low + high)
            above = middle * np.tan(middle) > biot
            low, high = np.where(above, low, middle), np.where(above, middle, high)
        roots = 0.5 * (low + high)
        rates[k] = roots**2
        shares[k] = 2 * biot**2 / (roots**2 * (roots**2 + biot**2 + biot))
    # What the later terms have is gone at once.
    shares[:, -1] += 1 - shares.sum(axis=1)
    return numbers, rates / rates[:, :1], shares


def _slab(z: Array, days: Array) -> Array:
    """A slab from both faces through a skin of air; its pace is that of its last and slowest term."""
    numbers, rates, shares = _slab_table()
    at = (np.clip(1.5 + 1.5 * z[:, 1], numbers[0], numbers[-1]) - numbers[0]) / (numbers[1] - numbers[0])
    low = np.minimum(at.astype(int), numbers.size - 2)
    over = (at - low)[:, None]
    rate = rates[low] * (1 - over) + rates[low + 1] * over
    share = shares[low] * (1 - over) + shares[low + 1] * over
    return np.asarray(np.einsum("kt,ktn->kn", share, np.exp(-rate[:, :, None] * _pace(z, days)[:, None, :])))


def _stretched(z: Array, days: Array) -> Array:
    return np.exp(-(_pace(z, days) ** np.exp(0.35 * z[:, 1:2])))


FAMILIES = (
    Family("single", 1, _single),
    Family("double", 3, _double),
    Family("two phases", 3, _two_phases),
    Family("slab", 2, _slab),
    Family("stretched", 2, _stretched),
)


@dataclass(frozen=True)
class Shaped:
    """What one family says of a log: the ln of its evidence, and draws: figures, what it comes to and what it had to lose (kg)."""

    family: Family
    evidence: float
    figures: Array
    final: Array
    loss: Array

    def excess(self, days: Array) -> Array:
        """What is left over what its room brings it to, kg, for each draw (rows) at days in usual paces."""
        return self.loss[:, None] * self.family.excess(self.figures, days)


def noise(days: Array, masses: Array, sigma: Array) -> Array:
    """The covariance of what weighings are off by, kg²: each by itself, and all by how the room wanders."""
    apart = np.abs(days[:, None] - days[None, :])
    wander = WANDER * float(masses.mean())
    return np.diag(sigma**2) + wander**2 * np.exp(-apart / WANDER_DAYS)


def evidence_of(off: Array, covariance: Array) -> float:
    """ln of how likely it is that weighings are off by so much."""
    root = np.linalg.cholesky(covariance)
    scaled = np.linalg.solve(root, off)
    return float(-0.5 * scaled @ scaled - np.log(np.diag(root)).sum() - 0.5 * off.size * math.log(2 * math.pi))


class _Linear:
    """A log as it is linear in what a bowl comes to and in what it has to lose, a shape given."""

    def __init__(self, days: Array, masses: Array, sigma: Array, room: Array, known: Known) -> None:
        root = np.linalg.cholesky(noise(days, masses, sigma))
        self.white = np.linalg.inv(root)
        self.masses, self.room = self.white @ masses, self.white @ room
        self.constant = -np.log(np.diag(root)).sum() - 0.5 * days.size * math.log(2 * math.pi)
        spreads = np.array([known.final_kg * known.final_spread, LOSS_SPREAD * masses[0]])
        self.mean = np.array([known.final_kg, max(masses[0] - known.final_kg, 0.1 * masses[0])])
        self.precision = 1 / spreads**2
        self.spreads, self.most = spreads, known.most

    def solved(self, excess: Array) -> tuple[Array, Array, Array]:
        """For each row of an excess: ln of its evidence, the means (rows of two) and covariances of what it comes to and has to lose."""
        column = excess @ self.white.T
        a11 = np.full(column.shape[0], self.room @ self.room) + self.precision[0]
        a12 = column @ self.room
        a22 = np.einsum("kn,kn->k", column, column) + self.precision[1]
        b1 = np.full(column.shape[0], self.room @ self.masses) + self.precision[0] * self.mean[0]
        b2 = column @ self.masses + self.precision[1] * self.mean[1]
        determinant = np.maximum(a11 * a22 - a12**2, 1e-300)
        mean = np.stack([(a22 * b1 - a12 * b2) / determinant, (a11 * b2 - a12 * b1) / determinant], axis=1)
        whole = self.masses @ self.masses + np.sum(self.precision * self.mean**2)
        misfit = whole - b1 * mean[:, 0] - b2 * mean[:, 1]
        evidence = self.constant - 0.5 * misfit - 0.5 * np.log(determinant) - np.log(self.spreads).sum()
        covariance = np.stack([a22, -a12, -a12, a11], axis=1).reshape(-1, 2, 2) / determinant[:, None, None]
        return evidence, mean, covariance


def shaped(days: Array, masses: Array, sigma: Array, room: Array, known: Known, families: tuple[Family, ...] = FAMILIES) -> list[Shaped]:
    """What each shape says of a log.

    Args:
        days, masses, sigma: weighings in order from day 0, kg, and what each may be off by; room: what a settled bowl weighs at each beside
            its mean, a share about 1.
    """
    linear, paced = _Linear(days, masses, sigma, room, known), days / known.pace_days
    return [_sampled(family, linear, paced, np.random.default_rng(11)) for family in families]


def _sampled(family: Family, linear: _Linear, paced: Array, chance: np.random.Generator) -> Shaped:
    size = family.figures
    z = chance.standard_normal((SAMPLES, size))
    proposal = _standard(z)
    last = False
    for turn in range(ROUNDS):
        evidence, mean, covariance = linear.solved(family.excess(z, paced))
        # Nothing dries upwards, and no wood holds more than its pores do.
        can_be = (mean > 0).all(axis=1) & (mean[:, 1] <= (linear.most - 1) * mean[:, 0])
        evidence = np.where(can_be, evidence, -np.inf)
        weight = evidence + _standard(z) - proposal
        best = float(weight.max())
        if not math.isfinite(best):
            return Shaped(family, -math.inf, z[:0], z[:0, 0], z[:0, 0])
        shares = np.exp(weight - best)
        total = float(shares.sum())
        shares = shares / total
        if last:
            break
        last = turn >= ROUNDS - 2 or 1.0 / float(np.sum(shares**2)) > ENOUGH * shares.size
        # At first the best few hold all the weight: flatter, so that the next round looks about them.
        flat = np.exp((weight - best) * _evened(weight - best))
        flat = flat / flat.sum()
        middle = flat @ z
        spread = np.einsum("k,ki,kj->ij", flat, z - middle, z - middle) * 1.5 + 1e-6 * np.eye(size)
        root = np.linalg.cholesky(spread)
        many = LAST_SAMPLES if last else SAMPLES
        # One in ten looks everywhere.
        anywhere = chance.random(many) < 0.1
        z = chance.standard_normal((many, size))
        z = np.where(anywhere[:, None], z, middle + z @ root.T)
        near = _standard(np.linalg.solve(root, (z - middle).T).T) - np.log(np.diag(root)).sum()
        proposal = np.logaddexp(math.log(0.9) + near, math.log(0.1) + _standard(z))
    chosen = np.searchsorted(np.cumsum(shares), (np.arange(DRAWS_EACH) + 0.5) / DRAWS_EACH).clip(0, shares.size - 1)
    roots = np.linalg.cholesky(covariance[chosen])
    both = mean[chosen] + np.einsum("kij,kj->ki", roots, chance.standard_normal((DRAWS_EACH, 2)))
    return Shaped(family, best + math.log(total / shares.size), z[chosen], both[:, 0], np.maximum(both[:, 1], 0.0))


def _evened(weight: Array) -> float:
    """The power that leaves at least a twentieth of the samples in play."""
    power = 1.0
    for _ in range(40):
        shares = np.exp(weight * power)
        if shares.sum() ** 2 / np.sum(shares**2) >= SAMPLES / 20:
            break
        power *= 0.75
    return power


def _standard(z: Array) -> Array:
    """ln of the standard normal density of each row, but for its constant, which falls out wherever it is used."""
    return np.asarray(-0.5 * np.einsum("ki,ki->k", z, z))
