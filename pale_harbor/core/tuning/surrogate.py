"""A surrogate search: what was tried so far says where it is worth trying next. By the package optuna."""

from collections.abc import Sequence
from itertools import repeat
from math import prod
from typing import Final

import optuna
from optuna.distributions import BaseDistribution, CategoricalDistribution, IntDistribution

from pale_harbor.core.tuning.dials import Dial, Setting
from pale_harbor.core.tuning.searching import BATCH, UNFIT, Searching

# Below every measure, which are 0 at least.
_UNFIT: Final = -1.0
# So many times a setting that is known already may come up before the search is over.
_TIRED: Final = 200


def surrogate_search(dials: Sequence[Dial], most: int, seed: int) -> Searching:
    """Settings that a tree-structured Parzen estimator expects to be good, after the one that stands.

    Source: J. Bergstra, R. Bardenet, Y. Bengio, B. Kégl, "Algorithms for Hyper-Parameter Optimization", 2011.
    """
    optuna.logging.set_verbosity(optuna.logging.WARNING)
    sampler = optuna.samplers.TPESampler(seed=seed, multivariate=True, constant_liar=True)
    study = optuna.create_study(direction="maximize", sampler=sampler)
    study.enqueue_trial({str(number): dial.standing for number, dial in enumerate(dials)})
    known: dict[Setting, float] = {}
    wanted = min(most, prod(len(one.values) for one in dials))
    tired = 0
    while len(known) < wanted and tired < _TIRED:
        trials: list[tuple[optuna.trial.Trial, Setting]] = []
        for trial in (study.ask(_ranges(dials)) for _ in repeat(None, min(BATCH, wanted - len(known)))):
            trials.append((trial, tuple(int(trial.params[str(number)]) for number in range(len(dials)))))
        fresh = list(dict.fromkeys(one for _, one in trials if one not in known))
        tired = 0 if fresh else tired + len(trials)
        if fresh:
            known.update(zip(fresh, (yield fresh), strict=True))
        for trial, one in trials:
            study.tell(trial, _UNFIT if known[one] == UNFIT else known[one])


def _ranges(dials: Sequence[Dial]) -> dict[str, BaseDistribution]:
    return {
        str(number): IntDistribution(0, len(dial.values) - 1)
        if dial.ordered
        else CategoricalDistribution(range(len(dial.values)))
        for number, dial in enumerate(dials)
    }
