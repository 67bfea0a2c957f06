"""The shell of every page: head, stages, keys, styles, scripts, tasks, guide and glossary.

A page. Its title and its actions stand in the `head` block, before the notes and the stages in the order of Tab; its one filled
action is `btn act`. Letters are measured in `rem`, so that a wide screen may enlarge them; in drawings `--k` keeps them at 12
px at the size shown. On a phone the head is one row. `tests/browser/test_every_view.py` opens every page at five sizes and in
both themes and asks for all this.

Long work calculates before it takes the write lock: transactions are immediate, so `atomic` locks at once. Read many rows
`as_it_stood()`; make pictures, rows and files first; try foreign rows `scratch_database()`, a bench in memory; give a long
table to a task (`ui/tasks.py`). `make bench` prints how long another writer waits.

Templates are laid out by djhtml and loaded without their layout (`loader.py`). A form is a `TypedForm` whose fields are read by
the product's own readers (`fields.py`); it tells all errors at once. Words for the next page go by `flash_messages.say`.
"""
