"""Views: results as text for people and programs. Every view has the same functions.

`show_tallies`, `show_breakdown`, `show_rows` and `show_funnel` each return a text;
`with_funnel` puts a funnel under a text that was shown. (CSV has no funnel.)
"""
