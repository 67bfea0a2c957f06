"""The calculators as pages, each from its entry in `core/calculators/`."""
