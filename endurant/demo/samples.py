"""The samples that have arrived at the demo laboratory: invented clients, goods and demands."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from endurant.core.judging.criteria import Criterion
from endurant.work.use_cases.receiving import receiving
from endurant.work.use_cases.receiving.limits import LimitRequest
from endurant.work.use_cases.sheets import cutting


@dataclass(frozen=True)
class DemoJob:
    """One made-up job and how far it has come."""

    client: str
    product: str
    lot: str
    material: str
    days_ago: float
    due_in_days: float
    warp_limit: str
    weft_limit: str
    stop_after: str
    width_mm: float = 1480
    length_mm: float = 1200
    arrival_state: str = "in good condition"
    slips: tuple[str, ...] = ()
    tested: int = 99
    crease: tuple[float, float, float, float] | None = None
    parameters: tuple[tuple[str, str], ...] = ()


JOBS = (
    DemoJob(
        "Quillmere Awnings",
        "Harbour awning cloth, slate",
        "26-104",
        "woven acrylic, 285 g/m²",
        12,
        -6,
        "20",
        "16",
        "released",
    ),
    DemoJob(
        "Tarn & Tether Tents",
        "Ridge flysheet, moss",
        "T-881",
        "woven polyester, coated, 92 g/m²",
        10,
        -4,
        "22",
        "18",
        "corrected",
        slips=("W3",),
    ),
    DemoJob(
        "Oakvane Upholstery",
        "Settle cloth, russet",
        "5520-B",
        "woven wool and viscose, 410 g/m²",
        6,
        0.3,
        "25.0",
        "19.0",
        "tested",
        slips=("W2",),
    ),
    DemoJob(
        "Quillmere Awnings",
        "Harbour awning cloth, sand",
        "26-118",
        "woven acrylic, 285 g/m²",
        3,
        1.1,
        "20",
        "16",
        "bench",
        slips=("W2",),
        tested=4,
    ),
    DemoJob(
        "Low Meadow Sails",
        "Dinghy sail cloth, cream",
        "LM-77",
        "woven polyester, 170 g/m²",
        2.2,
        1.6,
        "18",
        "15",
        "conditioned",
        width_mm=1370,
        length_mm=900,
        parameters=(("evaluation", "twelve-peaks"),),
    ),
    DemoJob(
        "Fennick Workwear",
        "Apron drill, navy",
        "AP-3310",
        "woven cotton, 320 g/m²",
        0.62,
        2.4,
        "21",
        "17",
        "hanging",
        width_mm=1520,
        length_mm=800,
    ),
    DemoJob(
        "Brackenhall Packs",
        "Rucksack base cloth, black",
        "RB-19",
        "woven polyamide, coated, 240 g/m²",
        0.4,
        3.2,
        "24",
        "20",
        "placed",
        arrival_state="one crease across, from the parcel",
        crease=(0, 330, 1480, 372),
    ),
    DemoJob(
        "Marlow Sundry Goods",
        "Market stall cover, striped",
        "SC-02",
        "woven acrylic, 300 g/m²",
        0.1,
        4,
        "20",
        "20",
        "received",
        width_mm=1400,
        length_mm=700,
    ),
)


RESIN = receiving.SampleRequest(
    client="Plinth & Cap Closures",
    product="Cap regrind, grey",
    lot="RG-12",
    material="polyethylene, regrind, pellets",
    form="granules",
    mass_g=900,
    due_at=datetime(2199, 1, 1, tzinfo=UTC),
    tests=[
        receiving.TestRequest(
            method="iso-1133-1-a",
            parameters={"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0},
            limits=[
                LimitRequest(
                    property="mfr",
                    direction="",
                    criterion=Criterion(on="mean", op="between", low="1.5", high="2.0"),
                )
            ],
        ),
        receiving.TestRequest(method="barrel-check"),
    ],
)
FLANNEL = RESIN.model_copy(
    update={
        "form": "sheet",
        "mass_g": None,
        "client": "Nightjar Knitwear",
        "product": "Pyjama flannel, brushed",
        "lot": "N-77",
        "material": "cotton, brushed one side, 165 g/m²",
        "width_mm": 1480,
        "length_mm": 900,
        "tests": [
            receiving.TestRequest(
                method="16-cfr-1610",
                parameters={"surface": "raised"},
                limits=[
                    LimitRequest(
                        property="class",
                        direction="",
                        criterion=Criterion(on="class", limit="1"),
                    )
                ],
            )
        ],
    }
)


LAMINATE = RESIN.model_copy(
    update={
        "form": "sheet",
        "mass_g": None,
        "client": "Cob & Kettle Roasters",
        "product": "Coffee pouch laminate, matt",
        "lot": "CK-2207",
        "material": "laminate of polyester, aluminium and polyethylene, 110 µm",
        "width_mm": 620,
        "length_mm": 5200,
        "tests": [
            receiving.TestRequest(method="astm-d882"),
            receiving.TestRequest(method="iso-6383-2", parameters={"capacity_n": 16.0}),
            receiving.TestRequest(method="astm-f88", parameters={"technique": "A"}),
            receiving.TestRequest(method="astm-f1306"),
            receiving.TestRequest(
                method="astm-d1709", parameters={"start_g": 150.0, "step_g": 15.0}
            ),
        ],
    }
)
COVER = RESIN.model_copy(
    update={
        "form": "sheet",
        "mass_g": None,
        "client": "Gantry Lane Covers",
        "product": "Trailer cover cloth, green",
        "order_number": "GL-2207",
        "lot": "GL-340",
        "material": "woven polyester, coated, 340 g/m²",
        "arrival_state": "a crease across the roll and an oil stain",
        "width_mm": 1500,
        "length_mm": 1700,
        "tests": [
            receiving.TestRequest(method="iso-13937-2"),
            receiving.TestRequest(method="iso-13934-1"),
            receiving.TestRequest(method="iso-13934-2"),
            receiving.TestRequest(method="iso-13936-1"),
            receiving.TestRequest(method="iso-13938-1"),
            receiving.TestRequest(method="iso-12947-2", parameters={"pressure_kpa": 12.0}),
        ],
    }
)
BOAT = RESIN.model_copy(
    update={
        "form": "pieces",
        "mass_g": None,
        "count": 12,
        "client": "Gantry Lane Covers",
        "product": "Boat cover cloth, grey",
        "order_number": "GL-2207",
        "lot": "GL-377",
        "material": "woven polyester, coated, 300 g/m²",
        "tests": [
            receiving.TestRequest(
                method="iso-13938-1",
                parameters={"diaphragm_pressure_kpa": 24.5},
                limits=[
                    LimitRequest(
                        property="bursting_strength",
                        direction="",
                        criterion=Criterion(on="mean", op=">=", limit="350"),
                    )
                ],
            )
        ],
    }
)
SACK = BOAT.model_copy(
    update={
        "count": 24,
        "client": "Westering Mills",
        "product": "Sack paper, brown",
        "lot": "WM-90",
        "material": "kraft paper, 90 g/m²",
        "tests": [receiving.TestRequest(method="iso-535")],
    }
)
BARS = BOAT.model_copy(
    update={
        "count": 8,
        "client": "Plinth & Cap Closures",
        "product": "Spindle bar, turned",
        "lot": "SB-4",
        "material": "mild steel, 12.5 mm in its parallel part",
        "tests": [
            receiving.TestRequest(
                method="astm-e8",
                parameters={
                    "gauge_length_mm": 50.0,
                    "speed_mm_min": 5.0,
                    "extensometer_off_strain": 0.02,
                },
            )
        ],
    }
)
COVERS = BOAT.model_copy(
    update={
        "count": 12,
        "client": "Plinth & Cap Closures",
        "product": "Meter cover, ribbed",
        "lot": "MC-21",
        "material": "moulded bars, polypropylene with chalk",
        "tests": [
            receiving.TestRequest(
                method="iso-180", parameters={"pendulum_j": 5.5, "friction_j": 0.02}
            )
        ],
    }
)
PELLETS = RESIN.model_copy(
    update={
        "product": "Cap compound, white",
        "lot": "CW-4",
        "material": "polyethylene, pellets",
        "tests": [
            receiving.TestRequest(
                method="iso-1133-1-a",
                parameters={"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0},
            )
        ],
    }
)
CARTONS = BOAT.model_copy(
    update={
        "form": "packs",
        "count": 12,
        "client": "Quarry Hill Packers",
        "product": "Jar case, twelve jars",
        "lot": "JC-9",
        "material": "single wall board, filled",
        "tests": [
            receiving.TestRequest(
                method="iso-2248", parameters={"sequence": ["3", "2-3", "2-3-5", "5", "1"]}
            ),
            receiving.TestRequest(method="bubble-leak", parameters={"vacuum_kpa": 60.0}),
        ],
    }
)
PRINTED = BOAT.model_copy(
    update={
        "count": 16,
        "client": "Cob & Kettle Roasters",
        "product": "Roaster's box, printed",
        "lot": "RB-71",
        "material": "folding board, printed and varnished",
        "tests": [
            receiving.TestRequest(
                method="scuff", parameters={"weight_n": 9.0, "preset_count": 200}
            ),
            receiving.TestRequest(method="iso-105-x12"),
        ],
    }
)
DARTS = BOAT.model_copy(
    update={
        "count": 40,
        "client": "Cob & Kettle Roasters",
        "product": "Sack film, clear",
        "lot": "SF-15",
        "material": "polyethylene film, 60 µm",
        "tests": [
            receiving.TestRequest(
                method="astm-d1709", parameters={"dart": "A", "start_g": 150.0, "step_g": 15.0}
            )
        ],
    }
)
SEAMS = BOAT.model_copy(
    update={
        "count": 14,
        "client": "Oakvane Upholstery",
        "product": "Settle cloth, moss, sewn",
        "lot": "5561-A",
        "material": "woven wool and viscose, 410 g/m², pairs as sewn",
        "tests": [receiving.TestRequest(method="iso-13936-1")],
    }
)
STRAP = BOAT.model_copy(
    update={
        "count": 6,
        "client": "Brackenhall Packs",
        "product": "Chest strap, elastic",
        "lot": "CS-8",
        "material": "elastic webbing, 25 mm",
        "tests": [
            receiving.TestRequest(
                method="hysteresis",
                parameters={"target_mm": 60.0, "cycles": 3, "gauge_length_mm": 100.0},
            )
        ],
    }
)
PALLETS = BOAT.model_copy(
    update={
        "count": 4,
        "client": "Quarry Hill Packers",
        "product": "Pallet, nine blocks",
        "lot": "P-31",
        "material": "softwood, nailed, 1200 x 1000 mm",
        "tests": [
            receiving.TestRequest(
                method="iso-8611",
                parameters={
                    "full_load_n": 6000.0,
                    "datum_s": 120.0,
                    "full_s": 600.0,
                    "relaxed_s": 300.0,
                },
            )
        ],
    }
)
COVER_AREAS = [
    cutting.AreaRequest(reason="crease", corners=[(0, 610), (1500, 660), (1500, 690), (0, 640)]),
    cutting.AreaRequest(
        reason="stain",
        corners=[(820, 180), (905, 165), (950, 215), (915, 270), (840, 262), (805, 225)],
    ),
]


TURNED = {"diameter_mm": [12.5, 12.49, 12.51]}
MOULDED = {"thickness_mm": [4.01, 4.0, 4.0], "remaining_width_mm": [8.02, 7.99]}
