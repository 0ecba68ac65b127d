"""A color reader: its tile first, three readings, what a dry tooth and a badly held tip do; never beside patients."""

from collections.abc import Iterator
from random import Random

import numpy as np
import pytest

from mallet.color.difference import de00
from mallet.color.dry import as_if_wet, dried
from mallet.rulebook import load_rulebook
from mallet.tooth import read_tooth
from practice.accounts.models import Practice
from practice.devices import color_reader
from practice.devices.color_reader import (
    CALIBRATED_FOR_H,
    INCISOR,
    Calibration,
    ColorReader,
    Held,
    SimulatedColorReader,
    TileState,
    read_place,
)
from practice.devices.programs import DeviceError
from practice.restorations.models import Restoration
from tests.practice.conftest import Caller

WET = np.zeros(3)


def reader(
    held: Held = "flat", dry: np.ndarray = WET, tile: TileState = "clean", seed: int = 1
) -> ColorReader:
    return SimulatedColorReader(read_tooth("11"), "middle", held, dry, tile, Random(seed))


@pytest.fixture
def fresh() -> Iterator[None]:
    """Forget what tiles other tests have read."""
    color_reader._calibrations.clear()
    yield
    color_reader._calibrations.clear()


class Clock:
    now_s = 0.0

    def __call__(self) -> float:
        return self.now_s


def test_a_flat_tip_reads_the_tooth_and_a_tilted_one_too_dark() -> None:
    for seed in range(20):
        read = read_place(reader(seed=seed))
        assert read.is_steady
        assert de00(np.array(INCISOR), read.lab) < 0.3
    tilted = [read_place(reader("over_edge", seed=seed)) for seed in range(40)]
    assert np.mean([read.lab[0] for read in tilted]) < INCISOR[0] - 0.5
    assert 5 <= sum(not read.is_steady for read in tilted) < 40


def test_a_dry_tooth_is_read_as_it_was_wet() -> None:
    rules = load_rulebook()
    read = read_place(reader(dry=dried(5.0, rules)))
    assert read.lab[0] > INCISOR[0] + 1
    assert de00(np.array(INCISOR), as_if_wet(read.lab, 5.0, rules)) < 0.3


def test_a_tile_that_is_off_calibrates_nothing_and_a_good_one_for_eight_hours() -> None:
    clock = Clock()
    kept = Calibration(clock)
    assert not kept.holds
    kept.calibrate(reader())
    assert kept.holds
    for tile in ("soiled", "other"):
        with pytest.raises(DeviceError, match="dE00 off, up to"):
            kept.calibrate(reader(tile=tile))
        assert not kept.holds
    kept.calibrate(reader())
    clock.now_s = CALIBRATED_FOR_H * 3600
    assert kept.holds
    clock.now_s += 1
    assert not kept.holds


@pytest.mark.django_db
@pytest.mark.usefixtures("fresh")
def test_a_third_is_read_once_the_tile_was_and_the_plan_goes_by_it(call: Caller) -> None:
    body = {"tooth": "11", "zone": "middle", "minutes_dry": 0}
    status, told = call("post", "color-reader/readings", body)
    assert (status, told["code"]) == (409, "color_reader.not_calibrated")
    status, told = call("post", "color-reader/calibration", {"tile": "soiled"})
    assert (status, told["code"]) == (409, "color_reader.tile")
    assert call("post", "color-reader/calibration", {})[1]["is_calibrated"]
    status, read = call("post", "color-reader/readings", body)
    assert (status, read["is_steady"]) == (200, True)

    corner = Restoration.objects.get(patient__full_name="Birta Vantongeren")
    case = call("get", f"restorations/{corner.pk}")[1]["case"]
    case["shade"]["target"] = [read["target"]]
    color = call("post", "preview", {"case": case})[1]["plan"]["color"]
    assert color["target"] == pytest.approx(read["lab"], abs=0.11)
    # Spectra of the tooth and of all composites tell how it looks by lamplight.
    assert color["metamerism_de00"] is not None


@pytest.mark.django_db
@pytest.mark.usefixtures("fresh")
def test_no_simulated_reading_gets_into_the_plan_of_a_patient(call: Caller, demo: Practice) -> None:
    call("post", "color-reader/calibration", {})
    body = {"tooth": "11", "zone": "middle"}
    target = call("post", "color-reader/readings", body)[1]["target"]
    corner = Restoration.objects.get(patient__full_name="Birta Vantongeren")
    case = call("get", f"restorations/{corner.pk}")[1]["case"]
    case["shade"]["target"] = [target]
    Practice.objects.filter(pk=demo.pk).update(is_demo=False)
    status, told = call("post", f"restorations/{corner.pk}/plans", {"case": case})
    assert (status, told["problems"][0]["path"]) == (422, "shade.target[0].reader")
    assert call("get", "color-reader")[1]["name"] == ""
    for path, sent in (("calibration", {}), ("readings", body)):
        status, told = call("post", f"color-reader/{path}", sent)
        assert (status, told["code"]) == (409, "color_reader.none")
