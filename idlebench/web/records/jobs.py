"""Jobs, their units, and the boards in them."""

from __future__ import annotations

from django.db import models
from django.urls import reverse

from idlebench.core.board.dismantle import DismantlingStep, read_step
from idlebench.core.judge.policy import Policy, read_policy


class Job(models.Model):
    """Some machines of one kind, taken in together, with the ways of working chosen for them."""

    name = models.CharField(max_length=120)
    owner = models.CharField(max_length=120, blank=True)
    machine = models.CharField(max_length=120)
    made = models.PositiveIntegerField(null=True, blank=True)
    policy = models.CharField(max_length=20, default="renew")
    school = models.CharField(max_length=20, default="strict")
    way = models.CharField(max_length=20, default="lamp")
    # how much a round asks, a key of core.prove.rounds.DEPTHS
    rounds = models.CharField(max_length=8, blank=True, default="")
    mains_volts = models.FloatField(default=230.0)
    # most from the earth pin to bare metal, Ω; the core holds it to its own limit, so that it only goes down
    earth_limit = models.FloatField(default=0.3)
    mains_frequency = models.FloatField(default=50.0)
    meter_frequency = models.FloatField(default=120.0)
    hour_rate = models.FloatField(default=20.0)
    traits = models.JSONField(default=list)
    meter = models.CharField(max_length=120, blank=True)
    # what was ordered for it on the bench it came from: told on its sheet; no parcel of it is waited for here
    parcels = models.JSONField(default=list)
    began = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "jobs_job"
        ordering = ["id"]

    @property
    def number(self) -> int:
        return self.pk

    def __str__(self) -> str:
        return f"Job {self.pk}, {self.name}"


class Unit(models.Model):
    """One machine of a job."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="units")
    name = models.CharField(max_length=40)
    serial = models.CharField(max_length=60, blank=True)
    symptoms = models.TextField(blank=True, max_length=2000)
    missing = models.TextField(blank=True, max_length=2000)
    found = models.TextField(blank=True, max_length=2000)
    repairs = models.TextField(blank=True, max_length=2000)
    dates = models.TextField(blank=True, max_length=2000)
    # of a picture tube: how its screen has burnt in, a key of core.board.first_look.BURNS
    burn = models.CharField(max_length=8, blank=True)
    first_look = models.JSONField(default=list)
    look_skipped = models.JSONField(default=dict)
    worth = models.FloatField(null=True, blank=True)
    damage = models.PositiveIntegerField(default=0)
    # before its survey: words of core.judge.triage.CONDITIONS; and what was decided by hand: save, donor or wait
    condition = models.CharField(max_length=120, blank=True)
    decision = models.CharField(max_length=8, blank=True)
    decision_why = models.CharField(max_length=200, blank=True)
    handed_over = models.DateTimeField(null=True, blank=True)
    # how many hours of a day it will run, and from that, at hand-over, when it is looked at again and because of what
    hours_a_day = models.FloatField(default=4.0)
    next_look = models.DateField(null=True, blank=True)
    next_look_of = models.CharField(max_length=200, blank=True)
    # counted on by every change of the unit and what is in it: what was reckoned of an older turn is reckoned anew
    turn = models.PositiveIntegerField(default=0)

    class Meta:
        db_table = "jobs_unit"
        ordering = ["job_id", "name", "id"]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="unit_once_in_job")]

    def get_absolute_url(self) -> str:
        return reverse("unit", args=[self.pk])

    def __str__(self) -> str:
        return f"unit {self.name}"


class Board(models.Model):
    """One board of a unit. Rails, chips, zones and other parts are kept as they were typed; core reads them."""

    LINEAR, SWITCHING = "linear", "switching"
    SUPPLIES = [("", "no, it is fed"), (LINEAR, "linear supply"), (SWITCHING, "switching supply")]

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="boards")
    name = models.CharField(max_length=60)
    title = models.CharField(max_length=80, blank=True)
    # the number that is printed on it, held against those of the case and of other boards
    serial = models.CharField(max_length=60, blank=True)
    supply = models.CharField(max_length=12, blank=True, choices=SUPPLIES)
    width = models.FloatField(default=200.0)
    height = models.FloatField(default=140.0)
    expected = models.PositiveIntegerField(null=True, blank=True)
    fuse = models.CharField(max_length=60, blank=True)
    source_volts = models.FloatField(null=True, blank=True)
    source_va = models.FloatField(null=True, blank=True)
    rails = models.TextField(blank=True, max_length=4000)
    chips = models.TextField(blank=True, max_length=20_000)
    zones = models.TextField(blank=True, max_length=10_000)
    others = models.TextField(blank=True, max_length=20_000)
    nets = models.TextField(blank=True, max_length=500_000)
    supply_model = models.TextField(blank=True, max_length=8000)
    # of a board with a picture tube: its rates, stages and tuning parts, a line a stage
    monitor_model = models.TextField(blank=True, max_length=4000)
    # for trying and practising: where the parts that the stand-in reads differ from the survey
    truth = models.TextField(blank=True, max_length=4000)
    # of a unit that took an old supply's place: its harness, a wire a line
    wiring = models.TextField(blank=True, max_length=4000)
    # checks that a person added, a line each
    own_checks = models.TextField(blank=True, max_length=8000)
    # of a unit that took another's place: the board that is out for it
    stands_for = models.ForeignKey("self", null=True, blank=True, on_delete=models.SET_NULL, related_name="stood_for")
    # of a donor's board that stands for another: the unit it goes back to, and its name there
    came_from = models.ForeignKey(Unit, null=True, blank=True, on_delete=models.SET_NULL, related_name="lent")
    called = models.CharField(max_length=60, blank=True)
    # of a board that was replaced: by what, when, and what stays reversible; it is out of the machine and asks nothing
    replaced = models.CharField(max_length=300, blank=True)

    class Meta:
        db_table = "jobs_board"
        ordering = ["unit_id", "id"]
        constraints = [models.UniqueConstraint(fields=["unit", "name"], name="board_once_in_unit")]

    def __str__(self) -> str:
        return f"{self.title} {self.name}".strip()


class DismantleStep(models.Model):
    """A step of taking a unit apart, kept as typed; ticked when it is back."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="dismantling")
    text = models.CharField(max_length=400)
    back = models.DateTimeField(null=True, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "jobs_dismantlestep"
        ordering = ["id"]

    def __str__(self) -> str:
        return self.text

    def to_core(self) -> DismantlingStep:
        """The step as the core reads it."""
        return read_step(self.text)


class BoardProfile(models.Model):
    """What a board should carry, as the JSON that is handed to others. One for each board name."""

    board = models.CharField(max_length=60, unique=True)
    data = models.TextField()
    at = models.DateTimeField()

    class Meta:
        db_table = "jobs_boardprofile"
        ordering = ["board"]

    def __str__(self) -> str:
        return f"profile of {self.board}"


class ShopPolicy(models.Model):
    """A policy of the shop's own, as core.policy keeps it."""

    name = models.CharField(max_length=60, unique=True)
    data = models.JSONField()

    class Meta:
        db_table = "jobs_shoppolicy"
        ordering = ["name"]

    def __str__(self) -> str:
        return self.data.get("title", self.name)

    def to_core(self) -> Policy:
        """The policy as the core knows it."""
        return read_policy(self.data)


class ShopTimes(models.Model):
    """The shop's own times: minutes by their names in core.triage.TIMES. One row."""

    minutes = models.JSONField(default=dict)

    class Meta:
        db_table = "jobs_shoptimes"

    def __str__(self) -> str:
        return "the shop's own times"
