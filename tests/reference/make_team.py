"""Golden values for sequences, at the versions in requirements.txt: python tests/reference/make_team.py

trends.json  scipy.stats.theilslopes, and pymannkendall's Hamed and Rao modification of the Mann-Kendall test, on series with and
             without trend, autocorrelation and equal values
"""
import json
import pathlib

import numpy as np
import pymannkendall
from scipy.stats import theilslopes

HERE = pathlib.Path(__file__).parent


def series():
    rng = np.random.default_rng(56)
    for n in (6, 9, 14, 32, 60):
        for slope in (0.0, 0.02, -0.1):
            for keep in (0.0, 0.6):
                noise = rng.normal(scale=0.1, size=n)
                for i in range(1, n):
                    noise[i] += keep * noise[i - 1]
                y = 6 + slope * np.arange(n) + noise
                yield y
                yield np.round(y, 1)


cases = []
for y in series():
    found = pymannkendall.hamed_rao_modification_test(y)
    cases.append({"y": y.tolist(), "slope": float(theilslopes(y).slope), "p": float(found.p)})
(HERE / "trends.json").write_text(json.dumps(cases) + "\n")
