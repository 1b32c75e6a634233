"""How many examples a property is tried with: as the profile says, or a share of it where one takes long."""

from hypothesis import settings

some = settings(max_examples=max(settings().max_examples // 3, 1))
