"""A solo on paper: what stands on each page is chosen here once, and drawn alike by the page and as a PDF.

Places are points (1/72 inch) from the upper left corner of a page, y downwards. Nothing is smaller than 9 points.
"""
