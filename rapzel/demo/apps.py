from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "rapzel.demo"
    label = "demo"

    def ready(self) -> None:
        """Plugs the simulated bench in, which ships beside the application and not within it."""
        from rapzel.bench.stand_in import StandIn, plug_in  # noqa: PLC0415  apps must be there first
        from simulators.light import FAULTS, STROBES  # noqa: PLC0415  production has none of it

        plug_in(StandIn({name: strobe.kit for name, strobe in STROBES.items()}, FAULTS))
