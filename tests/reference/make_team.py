"""Golden values for the team's statistics, at the versions in requirements.txt: python tests/reference/make_team.py

variance.json  statsmodels' MixedLM by REML, artist as group and drawing as nested variance component, on unbalanced tables
pairs.json     scipy.stats.ttest_ind (Welch) with its confidence interval, statsmodels' multipletests (Holm), and
               scipy.stats.f_oneway
change.json    the best single change of mean by ruptures (Dynp, l2)
"""
import json
import pathlib
import warnings

import numpy as np
import pandas as pd
import ruptures
from scipy.stats import f_oneway, ttest_ind
from statsmodels.regression.mixed_linear_model import MixedLM
from statsmodels.stats.multitest import multipletests

HERE = pathlib.Path(__file__).parent
rng = np.random.default_rng(61)


def table(artists, sa, sb, se):
    out = []
    for _ in range(artists):
        a = rng.normal(scale=sa)
        drawings = []
        for _ in range(rng.integers(2, 7)):
            b = rng.normal(scale=sb)
            drawings.append([round(6 + a + b + e, 3) for e in rng.normal(scale=se, size=rng.integers(1, 9))])
        out.append(drawings)
    return out


cases = []
for artists, sa, sb, se in [(3, 0.4, 0.1, 0.2), (5, 0.3, 0.15, 0.3), (6, 0.05, 0.3, 0.2), (8, 0.2, 0.1, 0.1), (12, 0.5, 0.2, 0.4), (20, 0.1, 0.1, 0.1)]:
    t = table(artists, sa, sb, se)
    y, g, d = [], [], []
    for i, a in enumerate(t):
        for j, lines in enumerate(a):
            for v in lines:
                y.append(v)
                g.append(i)
                d.append(j)
    data = pd.DataFrame({"y": y, "g": g, "d": d})
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        model = MixedLM.from_formula("y ~ 1", groups="g", re_formula="1", vc_formula={"d": "0 + C(d)"}, data=data)
        fit = model.fit(reml=True, method=["powell", "lbfgs"])
    cases.append({"table": t, "mean": float(fit.fe_params.iloc[0]), "artist": float(np.sqrt(fit.cov_re.iloc[0, 0])), "drawing": float(np.sqrt(fit.vcomp[0])), "line": float(np.sqrt(fit.scale))})
(HERE / "variance.json").write_text(json.dumps(cases) + "\n")

cases = []
for n in (2, 3, 6, 9):
    groups = [np.round(rng.normal(6 + 0.15 * k, 0.1 + 0.1 * k, size=n + k), 3) for k in range(4)]
    found = [(i, j, ttest_ind(groups[i], groups[j], equal_var=False)) for i in range(4) for j in range(i + 1, 4)]
    p = [float(f.pvalue) for _, _, f in found]
    cases.append({
        "groups": [g.tolist() for g in groups],
        "pairs": [{"a": i, "b": j, "p": float(f.pvalue), "low": float(f.confidence_interval().low), "high": float(f.confidence_interval().high)} for i, j, f in found],
        "holm": multipletests(p, method="holm")[1].tolist(),
        "oneway": [float(v) for v in f_oneway(*groups)],
    })
(HERE / "pairs.json").write_text(json.dumps(cases) + "\n")

cases = []
for n in (6, 11, 24, 60):
    for at in (2, n // 2, n - 3):
        y = np.round(rng.normal(6, 0.2, size=n) + 0.3 * (np.arange(n) >= at), 3)
        cases.append({"y": y.tolist(), "at": int(ruptures.Dynp(model="l2", min_size=2, jump=1).fit(y.reshape(-1, 1)).predict(n_bkps=1)[0])})
(HERE / "change.json").write_text(json.dumps(cases) + "\n")
