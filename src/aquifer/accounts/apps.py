from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "aquifer.accounts"

    def ready(self) -> None:
        """People who come in are noted."""
        from aquifer.accounts import audit

        audit.listen()
