"""What a squared-up photo shows: which circles are cans and how large, boxes, stripes, what looks alike, and what room is left.

Arrays in, values out: nothing here opens a file or draws. `idlebench.seeing` does the seeing and asks here what to think of it.
"""
