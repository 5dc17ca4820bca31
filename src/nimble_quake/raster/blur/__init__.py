"""Averages of neighbours: blurs, trails, defocus, sums of copies."""
