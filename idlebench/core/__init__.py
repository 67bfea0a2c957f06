"""The rules of the job: plain functions and frozen dataclasses, no Django, no input or output, no clock."""
