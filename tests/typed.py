"""Jobs, units and boards as a person types them: read by the forms, written by the services."""

from __future__ import annotations

from collections.abc import Mapping

from idlebench.web.intake import forms, services
from idlebench.web.records.models import Board, Job, Unit


def take_in_job(typed: Mapping[str, str]) -> Job:
    return services.take_in_job(*forms.new_job(typed))


def change_job(job: Job, typed: Mapping[str, str]) -> None:
    services.change_job(job, forms.job_facts(typed))


def add_board(unit: Unit, typed: Mapping[str, str]) -> Board:
    return services.add_board(unit, forms.board_facts(typed))


def change_board(board: Board, typed: Mapping[str, str]) -> None:
    services.change_board(board, forms.board_facts(typed))
