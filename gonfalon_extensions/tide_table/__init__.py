"""Tide table: tide days as pages, and tables of high and low water."""
