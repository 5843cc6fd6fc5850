"""How sure a proposal is: reckoned from the program's own record of proposals that were right and wrong.

Logistic regression with a ridge (L2) penalty, by Newton's method: iteratively reweighted least squares (Hastie, Tibshirani, Friedman:
The Elements of Statistical Learning, 4.4.1).
"""

from collections.abc import Sequence
from math import log

import numpy as np
from numpy.typing import NDArray

from wily_magpie.core.dataclass import dataclass

LEAST_RECORDS, FEW_RECORDS = 30, 150
"""With fewer nothing is proposed; below the second one is more careful."""
SURE_WITH_FEW, SURE = 0.9, 0.8
STEPS, RIDGE = 12, 0.1
Features = tuple[float, ...]


def features_of(
    score: float, second: float, nearest: float, host: float, author: float, last: float, count: int
) -> Features:
    """What is known of a proposal, as numbers of like size.

    Args:
        score: of its value; second: of the next one. nearest: likeness of the likest text that has it.
        host, author, last: shares of the same site, the same authors and the last three entries.
        count: of all entries.
    """
    return (log(max(score, 1e-6)), score - second, nearest, host, author, last, log(count + 1))


@dataclass(frozen=True)
class Certainty:
    """A fitted record.

    Attributes:
        weights: of the features, standardised, and of a constant.
        mean, spread: of the features in the record.
        count: how many records there are.
    """

    weights: NDArray[np.float64]
    mean: NDArray[np.float64]
    spread: NDArray[np.float64]
    count: int

    @classmethod
    def of(cls, records: Sequence[tuple[Features, bool]]) -> "Certainty | None":
        """From a record; None where it is too short."""
        if len(records) < LEAST_RECORDS:
            return None
        given = np.array([features for features, _ in records], np.float64)
        right = np.array([is_right for _, is_right in records], np.float64)
        mean, spread = given.mean(axis=0), np.maximum(given.std(axis=0), 1e-6)
        matrix = np.column_stack([(given - mean) / spread, np.ones(len(given))])
        penalty = np.diag([RIDGE] * given.shape[1] + [1e-3])
        weights = np.zeros(matrix.shape[1])
        for _ in range(STEPS):
            guess = 1 / (1 + np.exp(-np.clip(matrix @ weights, -30, 30)))
            slope = matrix.T @ (right - guess) - penalty @ weights
            bend = (matrix * (guess * (1 - guess))[:, None]).T @ matrix + penalty
            weights = weights + np.linalg.solve(bend, slope)
        return cls(weights, mean, spread, len(records))

    def __call__(self, features: Features) -> float:
        """How often such a proposal is right, 0 to 1."""
        given = np.append((np.array(features) - self.mean) / self.spread, 1.0)
        return float(1 / (1 + np.exp(-np.clip(given @ self.weights, -30, 30))))

    @property
    def threshold(self) -> float:
        """From which certainty on something is proposed."""
        return SURE if self.count >= FEW_RECORDS else SURE_WITH_FEW
