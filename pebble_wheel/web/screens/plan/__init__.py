"""The plan of the making: fibre into strands, bobbins, what ends first, and the days."""
