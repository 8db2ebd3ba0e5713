"""Measurements, run by hand and by `make bench`. They print figures and judge nothing."""
