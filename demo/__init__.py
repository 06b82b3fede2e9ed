"""The demo: Pellworth Anning's Wick No. 4 lantern, three environments and a project, all made by code."""
