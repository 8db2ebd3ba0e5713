"""Regatta results board: race results as pages, and boards that gather them."""
