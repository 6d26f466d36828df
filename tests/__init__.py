"""The tests; examples are drawn alike each time, however slow the machine is meanwhile."""

from hypothesis import HealthCheck, settings

settings.register_profile("steady", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("steady")
