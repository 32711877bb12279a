from django.apps import AppConfig


class ReviewConfig(AppConfig):
    name = "aquifer.review"
