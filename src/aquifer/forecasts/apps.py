from django.apps import AppConfig


class ForecastsConfig(AppConfig):
    name = "aquifer.forecasts"

    def ready(self) -> None:
        from aquifer import changed
        from aquifer.forecasts.follows import Forecasts

        changed.subscribe(Forecasts())
