"""Procedures of the shop's own, those that are on a unit, and what was done of each."""

from __future__ import annotations

from django.db import models

from idlebench.core.prove.procedures import Procedure, procedure_from

from .jobs import Board, Unit


class ShopProcedure(models.Model):
    """A procedure of the shop's own, as its file has it; one of the same name stands before the one that ships."""

    name = models.CharField(max_length=60, unique=True)
    data = models.JSONField()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.data.get("title", self.name)

    def to_core(self) -> Procedure:
        """The procedure as the core knows it."""
        return procedure_from(self.data)


class UnitProcedure(models.Model):
    """A procedure on a unit, as it was when it was added. waits_until: of the wait that runs or just ran; dries_until: of one in which
    something is wet, and no power goes on; soaked: the same before that wait has begun."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="procedures")
    board = models.ForeignKey(Board, on_delete=models.SET_NULL, null=True, blank=True, related_name="procedures")
    title = models.CharField(max_length=80)
    data = models.JSONField()
    at = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True, blank=True)
    waits_until = models.DateTimeField(null=True, blank=True)
    dries_until = models.DateTimeField(null=True, blank=True)
    # the end of the drying by this machine's steady clock, and the start of the machine at which that was
    boot = models.CharField(max_length=36, blank=True)
    dries_steady = models.DateTimeField(null=True, blank=True)
    # something is wet, and a step of it in which that dries is still to come
    soaked = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.title

    def to_core(self) -> Procedure:
        """The procedure as the core knows it."""
        return procedure_from(self.data)


class ProcedureStep(models.Model):
    """What came of a step: done, skipped with a reason, or failed. free_at: when its wait is over."""

    DONE, SKIPPED, FAILED = "done", "skipped", "failed"

    procedure = models.ForeignKey(UnitProcedure, on_delete=models.CASCADE, related_name="steps")
    number = models.PositiveSmallIntegerField()
    state = models.CharField(max_length=8, choices=[(s, s) for s in (DONE, SKIPPED, FAILED)])
    reason = models.CharField(max_length=500, blank=True)
    typed = models.CharField(max_length=60, blank=True)
    at = models.DateTimeField()
    free_at = models.DateTimeField(null=True, blank=True)
    # the same by this machine's steady clock, and the start of the machine at which that was
    boot = models.CharField(max_length=36, blank=True)
    free_steady = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["procedure", "number"], name="step_once")]

    def __str__(self) -> str:
        return f"{self.procedure}, step {self.number}: {self.state}"
