"""Gonfalon: say who may do what on a website, and prove it."""
