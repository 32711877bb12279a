from django.apps import AppConfig


class AttachmentsConfig(AppConfig):
    name = "aquifer.attachments"

    def ready(self) -> None:
        from aquifer.attachments import merging
        from aquifer.heaters import duplicates

        duplicates.moved_by(merging.move)
