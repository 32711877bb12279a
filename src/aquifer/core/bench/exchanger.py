"""An exchanger with lime in it: what heat gets through, and how acid takes the lime off."""

import math
from dataclasses import dataclass

from aquifer.core.bench.layers import HEAT_KJ_KG_K

FIRES_KW = 28.0
"""Into the water at full fire. Trade practice, of a usual unit."""
AREA_M2 = 0.30
"""That water wets. Assumption."""
LIME_W_M_K, LIME_KG_M3 = 0.6, 2000.0
"""Of lime with its pores. Handbook, 0.5 to 2; assumption."""
FILM_KW_M2_K = 10.0
"""From a clean wall into water that runs fast. Handbook."""
CUT_OUT_C = 115.0
"""Of the wall, at which the unit gives up. Assumption."""
BUCKET_L, ACETIC_MOL_L, ACETIC_PK = 8.0, 0.833, 4.76
"""Vinegar in a bucket: 5 % of acetic acid, 60.05 g a mole, and its acid constant. Handbook."""
LIME_G_MOL, ACID_PER_LIME = 100.09, 2.0
"""Calcium carbonate, which takes two of acetic acid. Chemistry."""
SPENDS_PER_MIN = 0.03
"""Share of what acid is left that lime takes up in a minute of pumping. Assumption: four fifths in an hour."""
FRESH_PH, WATER_PH = 2.4, 7.6
"""Of vinegar, and of what comes from the faucet. Handbook; assumption."""


@dataclass
class Exchanger:
    """Lime in it, and the acid that goes round."""

    lime_g: float
    acid_mol: float = 0.0
    """What was poured into the bucket, spent or not."""
    spent_mol: float = 0.0
    holds_acid: bool = False
    """Acid clings in it until it is rinsed."""

    @property
    def lime_mm(self) -> float:
        """How thick it lies, mm."""
        return self.lime_g / 1000 / LIME_KG_M3 / AREA_M2 * 1000

    def bears_kw(self, water_c: float) -> float:
        """What it can give before its wall cuts out. Source: Fourier, solved for the heat."""
        return (CUT_OUT_C - water_c) * AREA_M2 / (self.lime_mm / LIME_W_M_K + 1 / FILM_KW_M2_K)

    def rise_k(self, flow_l_min: float, most_k: float, out_c: float) -> float:
        """By how much water gets warmer. Parameters: flow, L/min; most_k, to the setting; out_c, the setting.

        Source: heat is flow times rise.
        """
        kw = min(FIRES_KW, self.bears_kw(out_c))
        return min(kw * 60 / (flow_l_min * HEAT_KJ_KG_K), most_k)

    def cuts_out(self, out_c: float) -> bool:
        """Whether it gives up at full fire."""
        return self.bears_kw(out_c) < FIRES_KW

    def pour(self) -> None:
        """A bucket of fresh acid, in the place of what was in it."""
        self.acid_mol, self.spent_mol, self.holds_acid = BUCKET_L * ACETIC_MOL_L, 0.0, True

    def empty(self) -> None:
        """The bucket is poured away; what clings stays."""
        self.acid_mol = self.spent_mol = 0.0

    def pump(self, minutes: float) -> float:
        """Acid goes round. Returns: grams of lime that went.

        Source: first order in the acid that is left; no more than there is lime.
        """
        left = self.acid_mol - self.spent_mol
        could = left * -math.expm1(-SPENDS_PER_MIN * minutes)
        gone_g = min(could / ACID_PER_LIME * LIME_G_MOL, self.lime_g)
        self.lime_g -= gone_g
        self.spent_mol += gone_g / LIME_G_MOL * ACID_PER_LIME
        return gone_g

    @property
    def ph(self) -> float:
        """Of what is in the bucket, else of faucet water. Source: Henderson and Hasselbalch, no sourer than fresh."""
        left = self.acid_mol - self.spent_mol
        if self.acid_mol <= 0:
            return WATER_PH
        if self.spent_mol <= 0:
            return FRESH_PH
        return max(FRESH_PH, ACETIC_PK + math.log10(self.spent_mol / max(left, 1e-9)))
