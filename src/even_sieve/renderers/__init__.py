"""Renderers: documents as text, pages and files."""
