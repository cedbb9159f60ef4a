"""The shape of a job file, version 2 (1 is still read): what may stand in it, by field. Makes the schema too."""

from typing import Annotated, Literal

from pydantic import Field

from mockup.jobfile.cam_shape import (
    CamCardShape,
    DegreeShape,
    LiftShape,
    LobeTableShape,
    PushrodChoiceShape,
    PushrodShape,
    WipeShape,
)
from mockup.jobfile.engine_shape import (
    ChangeShape,
    EngineShape,
    GasketShape,
    InstrumentShape,
    MarginsShape,
    MockUpShape,
    RunningShape,
    ShimsShape,
)
from mockup.jobfile.parts import MOST_READINGS, Finite, Shape
from mockup.jobfile.reading_shape import (
    ClayShape,
    DeckShape,
    HeadShape,
    SignOffShape,
    SweepShape,
    TdcShape,
    VolumeShape,
)
from mockup.quantity.value import DeckSign, Unit

FORMAT = "astute-mole/job"
VERSION = 2


class JobShape(Shape):
    """A whole job file."""

    format: Literal["astute-mole/job"]
    version: Literal[1, 2]
    unit: Unit
    deck_sign: DeckSign = DeckSign.DOWN_POSITIVE
    name: Annotated[str, Field(min_length=1, max_length=120)]
    engine: EngineShape
    margins: MarginsShape
    final_gasket: GasketShape | None = None
    final_shims: list[ShimsShape] = Field(default=[], max_length=20)
    changes: list[ChangeShape] = Field(default=[], max_length=200)
    running: RunningShape | None = None
    cam_card: CamCardShape | None = None
    lobe_tables: list[LobeTableShape] = Field(default=[], max_length=2)
    cam_steps_deg: list[Finite] = Field(default=[], max_length=20)
    pushrod_choice: PushrodChoiceShape | None = None
    mockups: list[MockUpShape] = Field(default=[], max_length=100)
    tdc: list[TdcShape] = Field(default=[], max_length=MOST_READINGS)
    deck: list[DeckShape] = Field(default=[], max_length=MOST_READINGS)
    clay: list[ClayShape] = Field(default=[], max_length=MOST_READINGS)
    heads: list[HeadShape] = Field(default=[], max_length=MOST_READINGS)
    sweeps: list[SweepShape] = Field(default=[], max_length=MOST_READINGS)
    volumes: list[VolumeShape] = Field(default=[], max_length=MOST_READINGS)
    degrees: list[DegreeShape] = Field(default=[], max_length=MOST_READINGS)
    lifts: list[LiftShape] = Field(default=[], max_length=MOST_READINGS)
    pushrods: list[PushrodShape] = Field(default=[], max_length=MOST_READINGS)
    wipes: list[WipeShape] = Field(default=[], max_length=MOST_READINGS)
    sign_offs: list[SignOffShape] = Field(default=[], max_length=500)
    instruments: list[InstrumentShape] = Field(default=[], max_length=100)
