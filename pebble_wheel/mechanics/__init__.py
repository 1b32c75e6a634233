"""The mechanics of twisted strands: pure functions, arrays in, arrays out.

Units throughout: mm, tex, g/cm³, turns/m (signed: Z positive, S negative), radians. Every function takes
scalars or numpy arrays and broadcasts.
"""
