"""The live view: one socket for each open view, one supervised render host for each open project."""
