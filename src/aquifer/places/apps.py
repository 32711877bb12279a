from django.apps import AppConfig


class PlacesConfig(AppConfig):
    name = "aquifer.places"

    def ready(self) -> None:
        from aquifer.heaters import duplicates
        from aquifer.places import merging

        duplicates.moved_by(merging.move)
