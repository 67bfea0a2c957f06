"""The commands, a file for what belongs together: each adds its own to the parser, and says how it is run."""
