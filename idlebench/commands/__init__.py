"""The commands, a file for what belongs together: each adds its own to the parser, and says how it is run.

`cli.py` puts them together and turns refusals into one line and exit code 2. A command has an example in `EXAMPLES`.
"""
