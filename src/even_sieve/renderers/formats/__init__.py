"""The formats of text, one a module: what `--format` offers."""
