"""Air: the standard atmosphere, and a pressure set in one place as it is in another (docs/models.md
2.7).
"""

from inner_rim.core.record.resolved import Methods, Rider

SEA_LEVEL_KPA = 101.325
KELVIN_AT_ZERO_C = 273.15


def ambient_kpa(altitude_m: float) -> float:
    """Return the standard atmosphere's pressure p = 101.325 * (1 - 2.25577e-5 * h)^5.25588.

    >>> round(ambient_kpa(1500.0), 2)
    84.56

    Source: ISO 2533.
    """
    return SEA_LEVEL_KPA * float((1.0 - 2.25577e-5 * altitude_m) ** 5.25588)


def set_here_kpa(
    ride_kpa: float, ride_c: float, ride_ambient_kpa: float, here_c: float, here_ambient_kpa: float
) -> float:
    """Return the gauge pressure to set here so that it is `ride_kpa` on the ride.

    p_here = (p_ride + ambient_ride) * T_here / T_ride - ambient_here.

    Absolute pressure goes with kelvin at constant volume.

    >>> round(set_here_kpa(190.0, 8.0, 101.325, 20.0, 101.325), 1)
    202.4

    Source: ideal gas law.
    """
    warmth = (here_c + KELVIN_AT_ZERO_C) / (ride_c + KELVIN_AT_ZERO_C)
    return (ride_kpa + ride_ambient_kpa) * warmth - here_ambient_kpa


def shop_ambient_kpa(methods: Methods) -> float:
    """Return the pressure of the air in the shop.

    >>> round(shop_ambient_kpa(methods), 3)
    101.325

    Source: see `ambient_kpa`.
    """
    return ambient_kpa(methods.shop_altitude_m)


def ride_air(rider: Rider) -> tuple[float, float]:
    """Return temperature in °C and ambient pressure in kPa on the ride.

    >>> ride_air(rider)
    (20.0, 101.325)

    Source: see `ambient_kpa`.
    """
    return rider.temperature_c, ambient_kpa(rider.altitude_m)


def at_ride_kpa(here_kpa: float, rider: Rider, methods: Methods) -> float:
    """Return what a pressure set in the shop is on the ride.

    p = (p_here + ambient) * T_ride / T_shop - ambient, in kelvin.

    >>> cold = msgspec.structs.replace(rider, temperature_c=5.0)
    >>> round(at_ride_kpa(190.0, cold, methods), 1)
    175.1

    Source: ideal gas law (see `set_here_kpa`).
    """
    ride_c, ride_ambient = ride_air(rider)
    return max(
        0.0,
        set_here_kpa(
            here_kpa, methods.shop_temperature_c, shop_ambient_kpa(methods), ride_c, ride_ambient
        ),
    )
