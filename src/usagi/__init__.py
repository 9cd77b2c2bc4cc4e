"""Usagi: the workbench of a lead guitar teacher."""
