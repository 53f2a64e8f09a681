"""Views: results as text for people and programs. Every view has the same three functions.

`show_tallies`, `show_breakdown` and `show_rows` each return a text.
"""
