"""Who is served, and where."""

from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import F, Func, Q, Value
from django.db.models.functions import Length

from aquifer.choices import choices
from aquifer.core.vocabulary import Business, Practice
from aquifer.history.marks import kept_history


class Levenshtein(Func):
    """How many letters have to be changed, added or left out; exact up to the third argument."""

    function = "levenshtein_less_equal"
    output_field = models.IntegerField()


class WordQuerySet(models.QuerySet["Word"]):
    def like(self, asked: str) -> list[str]:
        """The word itself if there is such a one, else the few that it may be misspelt for, the likeliest first.

        One letter wrong in a word of up to four, two in a longer one. Source: assumption, for names and streets.
        """
        if self.filter(text=asked).exists():
            return [asked]
        most = 1 if len(asked) <= 4 else 2
        far = Levenshtein(F("text"), Value(asked), Value(most))
        near = self.annotate(letters=Length("text"), far=far).filter(
            letters__gte=len(asked) - most, letters__lte=len(asked) + most, far__lte=most
        )
        return list(near.order_by("far", "text").values_list("text", flat=True)[:4])


class Word(models.Model):
    """A word of a name, street or town on record; kept by the database, for forgiving typing errors."""

    text = models.CharField(max_length=40, primary_key=True)

    objects = WordQuerySet.as_manager()

    def __str__(self) -> str:
        return self.text


class Customer(models.Model):
    code = models.CharField(max_length=40, unique=True, help_text="The company's own number for the customer.")
    name = models.CharField(max_length=160)
    phone = models.CharField(max_length=40, blank=True)
    second_phone = models.CharField(max_length=40, blank=True)
    email = models.EmailField(blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    history = kept_history()

    class Meta:
        constraints = [
            models.CheckConstraint(condition=~Q(code=""), name="customer_code_is_given"),
            models.CheckConstraint(condition=~Q(name=""), name="customer_name_is_given"),
        ]

    def __str__(self) -> str:
        return self.name


class Site(models.Model):
    code = models.CharField(max_length=40, unique=True)
    customer = models.ForeignKey(Customer, on_delete=models.PROTECT, related_name="sites")
    name = models.CharField(max_length=160, help_text="What people call it: a family, a school, a plant room.")
    street = models.CharField(max_length=200, blank=True)
    town = models.CharField(max_length=120, blank=True)
    state = models.CharField(max_length=40, blank=True)
    postcode = models.CharField(max_length=20, blank=True)
    zone = models.ForeignKey("water.Zone", on_delete=models.PROTECT, related_name="sites")
    softened = models.BooleanField(default=False, help_text="A softener stands before the heaters.")
    people = models.FloatField(null=True, blank=True)
    hot_water_l_per_day = models.FloatField(null=True, blank=True, help_text="Metered; for the whole site.")
    static_pressure_kpa = models.FloatField(null=True, blank=True)
    pressure_on = models.DateField(null=True, blank=True, help_text="When it was measured, or said otherwise.")
    pressure_measured = models.BooleanField(default=False, help_text="At a visit, and not only said.")
    fixtures = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Hot taps, showers and baths.")
    business = models.CharField(max_length=12, choices=choices(Business), blank=True, help_text="If no household.")
    occupied_share = models.FloatField(null=True, blank=True, help_text="Share of the year it is lived in, 0 to 1.")
    dusty = models.BooleanField(default=False, help_text="The heater stands in dust or lint.")
    practice = models.CharField(
        max_length=24, choices=choices(Practice), blank=True, help_text="What its contract says, where it says more."
    )
    closed_system = models.BooleanField(null=True, blank=True)
    hazard = models.CharField(max_length=240, blank=True, help_text="Said first wherever the site appears.")
    shut_off = models.CharField(max_length=240, blank=True, help_text="Where the water is shut off, and what kind.")
    access = models.CharField(max_length=240, blank=True)
    details = models.JSONField(default=dict, blank=True, help_text="Who owns, pays and approves; by the core's table.")
    longitude = models.FloatField(null=True, blank=True)
    latitude = models.FloatField(null=True, blank=True)
    located_by = models.CharField(
        max_length=8, blank=True, help_text="Empty: by hand. Town: it is the middle of its town or postcode."
    )
    archived_at = models.DateTimeField(null=True, blank=True)
    words = models.TextField(default="", editable=False, help_text="What it is found by; kept by the database.")

    history = kept_history("words")

    class Meta:
        constraints = [
            models.CheckConstraint(condition=~Q(code=""), name="site_code_is_given"),
            models.CheckConstraint(condition=Q(people__isnull=True) | Q(people__gte=0), name="site_people_positive"),
            models.CheckConstraint(
                condition=Q(hot_water_l_per_day__isnull=True) | Q(hot_water_l_per_day__gte=0),
                name="site_use_is_not_negative",
            ),
            models.CheckConstraint(
                condition=Q(occupied_share__isnull=True) | Q(occupied_share__gte=0, occupied_share__lte=1),
                name="site_occupied_share_in_range",
            ),
        ]
        indexes = [GinIndex(fields=["words"], name="site_words_trigram", opclasses=["gin_trgm_ops"])]

    def __str__(self) -> str:
        return self.name


class Town(models.Model):
    """A town or postcode with its middle, as the company's own file says."""

    name = models.CharField(max_length=120)
    postcode = models.CharField(max_length=20, blank=True)
    longitude = models.FloatField()
    latitude = models.FloatField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["name", "postcode"], name="town_once")]

    def __str__(self) -> str:
        return f"{self.name} {self.postcode}".strip()
