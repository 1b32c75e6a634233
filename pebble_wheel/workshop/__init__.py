"""The services between formats and screens: reading, aiming, building, refitting."""
