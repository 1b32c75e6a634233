"""Where practitioners differ stands where it matters, and nowhere else."""

from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.settings import Settings
from pebble_wheel.wording.schools import schools
from pebble_wheel.workshop.starts import start


def matters(name, verdict="balanced"):
    return [each.matter for each in schools(design_of(start(name), Settings()), verdict)]


def test_each_kind_meets_its_own_schools_once():
    assert "Gauge" in matters("single") and "Bobbin holder" not in matters("single")
    assert "Bobbin holder" in matters("3-ply") and len(matters("3-ply")) == len(set(matters("3-ply")))
    assert "Hand on the wrap" in matters("core-spun") and "Textured ply" in matters("coiled")
    assert "Colours" in matters("chain") and "Colours" not in matters("2-ply")
    assert "Energised yarn" in matters("2-ply", "energised") and "Energised yarn" not in matters("2-ply")
