"""Sinks: tables written to files. Every sink has one function, `write`."""
