"""The log, the sheets, the figures, and hand-over.

Sheets. `web/ledger/sheets.py` says what was read and changed, `narrative.py` what else the sheet tells, `owner_summary.py` the
owner's words. In a PDF the sheet's styles do not reach into drawings: `sheet-drawings.css` has theirs, which `pdf.py` puts into
each. Ω, µ and arrows come from the `Signs` fonts.
"""
