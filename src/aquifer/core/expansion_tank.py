"""An expansion tank: the air cushion that takes up what water gains when it is heated in a closed system.

It fails in two ways, both unseen: air creeps out until the cushion is too small for the expansion, or the bladder
tears. Volumes in L; pressures are gauge in arguments named ``_kpa`` and absolute in those named ``_abs_kpa``.
"""

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.parameters import EXPANSION_TANK

ATMOSPHERE_KPA = 101.325
"""Standard atmosphere. Constant."""


def density_kg_m3(temperature_c: FloatArray) -> FloatArray:
    """Density of water at one atmosphere, kg/m3, 0 to 100 degC, any shape.

    Source: Kell 1975, J. Chem. Eng. Data 20, 97, equation for ITS-48; within 0.001 % there.
    """
    t = temperature_c
    top = (
        999.83952
        + 16.945176 * t
        - 7.9870401e-3 * t**2
        - 46.170461e-6 * t**3
        + 105.56302e-9 * t**4
        - 280.54253e-12 * t**5
    )
    return np.asarray(top / (1 + 16.879850e-3 * t))


def expansion_l(volume_l: FloatArray, cold_c: FloatArray, hot_c: FloatArray) -> FloatArray:
    """Volume by which ``volume_l`` of water grows from ``cold_c`` to ``hot_c``; shapes broadcast, never below 0.

    Source: conservation of mass with ``density_kg_m3``; the tank's own stretch is left out, on the safe side.
    """
    return np.asarray(np.maximum(volume_l * (density_kg_m3(cold_c) / density_kg_m3(hot_c) - 1), 0.0))


def acceptance_l(
    expansion_tank_l: FloatArray, precharge_abs_kpa: FloatArray, supply_abs_kpa: FloatArray, most_abs_kpa: FloatArray
) -> FloatArray:
    """Water that the tank takes in between supply pressure and the most that is allowed; shapes broadcast.

    Source: Boyle's law, isothermal. With less air than the supply's pressure the cushion is squeezed before anything
    is heated; with more, nothing enters until the pressure has risen to the precharge.
    """
    squeezed = expansion_tank_l * precharge_abs_kpa * (1 / supply_abs_kpa - 1 / most_abs_kpa)
    stiff = expansion_tank_l * (1 - precharge_abs_kpa / most_abs_kpa)
    return np.asarray(np.maximum(np.where(precharge_abs_kpa <= supply_abs_kpa, squeezed, stiff), 0.0))


def least_precharge_abs_kpa(
    expansion_tank_l: FloatArray, need_l: FloatArray, supply_abs_kpa: FloatArray, most_abs_kpa: FloatArray
) -> FloatArray:
    """Precharge below which ``need_l`` no longer fits, kPa absolute; above the supply's pressure it never does.

    Source: ``acceptance_l`` solved for the precharge.
    """
    return np.asarray(need_l / (expansion_tank_l * (1 / supply_abs_kpa - 1 / most_abs_kpa)))


def years_to_loss(precharge_abs_kpa: FloatArray, least_abs_kpa: FloatArray, log_theta: FloatArray) -> FloatArray:
    """Years until the precharge has fallen to ``least_abs_kpa``; 0 if it has; shapes broadcast.

    Source: exponential loss, ``parameters.EXPANSION_TANK``.
    """
    ratio = np.log(np.maximum(precharge_abs_kpa / least_abs_kpa, 1.0))
    return np.asarray(ratio / (EXPANSION_TANK.loss_per_year * np.exp(log_theta)))


def bladder_life_years(free_chlorine_mg_l: FloatArray, chloramine: BoolArray) -> FloatArray:
    """Characteristic life of a bladder, years, (n,). Source: ``parameters.EXPANSION_TANK``, assumption."""
    p = EXPANSION_TANK
    life = p.bladder_life_years * np.exp(-p.chlorine_slope * free_chlorine_mg_l)
    return np.asarray(np.where(chloramine, life / p.chloramine_divisor, life))


def bladder_hazard(years: FloatArray, life_years: FloatArray) -> FloatArray:
    """Cumulative hazard of the bladder at ``years`` of age; shapes broadcast. Source: Weibull, assumption."""
    return np.asarray((np.maximum(years, 0.0) / life_years) ** EXPANSION_TANK.bladder_shape)
