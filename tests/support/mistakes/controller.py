"""
A controller and a panel that share no line of code with Mill Latch: they lay values out in memory and read them back with
Python's struct and exact fractions. One of the two was set up with mistakes that this file makes by itself.

Reads a JSON object a line, answers with one a line:
  {"make": count, "seed": n}        -> {"cases": [...]}
  {"case": id, "drive": "12.5"}     -> the value is set at the controller: {"memory": hex, "seen": text}
  {"case": id, "bytes": hex}        -> our mapping wrote them: {"memory": hex, "seen": text of the panel}
  {"case": id, "read": [hex, ...]}  -> what the mistaken party shows of such memory: {"shown": [number or null, ...]}
"""

import json
import random
import struct
import sys
from fractions import Fraction
from math import floor

TAG_AT = 8  # bytes of memory in front of the tag
MEMORY = 40

# name: (struct code, bytes, kind)
TYPES = {
    "INT": ("h", 2, "int"),
    "UINT": ("H", 2, "int"),
    "DINT": ("i", 4, "int"),
    "UDINT": ("I", 4, "int"),
    "LINT": ("q", 8, "int"),
    "ULINT": ("Q", 8, "int"),
    "REAL": ("f", 4, "real"),
    "LREAL": ("d", 8, "real"),
    "UINT bcd": (None, 2, "bcd"),
    "UDINT bcd": (None, 4, "bcd"),
    "BOOL": (None, 2, "bool"),
}
ORDERS = {
    2: ["AB", "BA"],
    4: ["ABCD", "CDAB", "BADC", "DCBA"],
    8: ["ABCDEFGH", "GHEFCDAB", "BADCFEHG", "HGFEDCBA", "CDABGHEF", "EFGHABCD", "DCBAHGFE", "FEHGBADC"],
}
# Unit to (factor, offset) of a common one. Exact by the definitions of inch, pound, standard atmosphere of force and Fahrenheit.
UNITS = {
    "°C": ("t", Fraction(1), Fraction(0)),
    "°F": ("t", Fraction(5, 9), Fraction(-160, 9)),
    "K": ("t", Fraction(1), Fraction(-27315, 100)),
    "bar": ("p", Fraction(100000), Fraction(0)),
    "kPa": ("p", Fraction(1000), Fraction(0)),
    "psi": ("p", Fraction("6894.757293168361"), Fraction(0)),
    "MPa": ("p", Fraction(1000000), Fraction(0)),
    "mm": ("l", Fraction(1, 1000), Fraction(0)),
    "in": ("l", Fraction(254, 10000), Fraction(0)),
    "m": ("l", Fraction(1), Fraction(0)),
    "kg": ("m", Fraction(1), Fraction(0)),
    "lb": ("m", Fraction(45359237, 100000000), Fraction(0)),
    "t": ("m", Fraction(1000), Fraction(0)),
    "": (None, Fraction(1), Fraction(0)),
    "1/min": ("n", Fraction(1), Fraction(0)),
    "%": (None, Fraction(1), Fraction(0)),
}
SIGNS = {"INT": "UINT", "UINT": "INT", "DINT": "UDINT", "UDINT": "DINT", "LINT": "ULINT", "ULINT": "LINT"}
SAME_WIDTH = {
    "INT": ["UINT bcd"],
    "UINT": ["UINT bcd"],
    "UINT bcd": ["UINT"],
    "DINT": ["REAL", "UDINT bcd"],
    "UDINT": ["REAL", "UDINT bcd"],
    "REAL": ["DINT", "UDINT"],
    "LINT": ["LREAL"],
    "ULINT": ["LREAL"],
    "LREAL": ["LINT", "ULINT"],
}
OTHER_WIDTH = {
    "INT": ["DINT"],
    "UINT": ["UDINT"],
    "DINT": ["INT", "LINT"],
    "UDINT": ["UINT", "ULINT"],
    "REAL": ["LREAL", "INT"],
    "LINT": ["DINT"],
    "ULINT": ["UDINT"],
    "LREAL": ["REAL"],
}


def widened(order, size):
    """The order of another width that moves words and bytes alike."""
    bytes_swapped = order in ("BA", "BADC", "DCBA", "BADCFEHG", "HGFEDCBA")
    words_swapped = order in ("CDAB", "DCBA", "GHEFCDAB", "HGFEDCBA")
    if size == 2:
        return "BA" if bytes_swapped else "AB"
    straight = {4: ["ABCD", "CDAB", "BADC", "DCBA"], 8: ["ABCDEFGH", "GHEFCDAB", "BADCFEHG", "HGFEDCBA"]}[size]
    return straight[(2 if bytes_swapped else 0) + (1 if words_swapped else 0)]


def permuted(value_bytes, order):
    """Most significant byte first, to the order on the wire."""
    return bytes(value_bytes[ord(letter) - 65] for letter in order)


def unpermuted(wire, order):
    out = bytearray(len(wire))
    for place, letter in enumerate(order):
        out[ord(letter) - 65] = wire[place]
    return bytes(out)


def bounds(name):
    code, size, kind = TYPES[name]
    if kind == "bcd":
        return 0, 10 ** (2 * size) - 1
    bits = 8 * size
    return (-(1 << (bits - 1)), (1 << (bits - 1)) - 1) if code.islower() else (0, (1 << bits) - 1)


def unpacked(name, value_bytes):
    code, size, kind = TYPES[name]
    if kind == "bcd":
        digits = value_bytes.hex()
        return Fraction(int(digits)) if digits.isdigit() else None
    value = struct.unpack(">" + code, value_bytes)[0]
    if kind == "real":
        if value != value or value in (float("inf"), float("-inf")):
            return None
        # A single is what its shortest decimal says, as every display shows it.
        return Fraction(repr(shortest_single(value))) if code == "f" else Fraction(value)
    return Fraction(value)


def shortest_single(value):
    for digits in range(6, 10):
        text = f"{value:.{digits - 1}e}"
        if struct.unpack(">f", struct.pack(">f", float(text)))[0] == value:
            return float(text)
    return value


def packed(name, raw):
    code, size, kind = TYPES[name]
    if kind == "real":
        return struct.pack(">" + code, float(raw))
    low, high = bounds(name)
    whole = min(high, max(low, round_half_away(raw)))
    return bytes.fromhex(f"{whole:0{2 * size}d}") if kind == "bcd" else struct.pack(">" + code, whole)


def round_half_away(value):
    return floor(value + Fraction(1, 2)) if value >= 0 else -floor(-value + Fraction(1, 2))


def shift(name, raw, bits):
    size = TYPES[name][1]
    whole = int(raw)
    moved = whole << bits if bits > 0 else whole >> -bits
    moved &= (1 << 8 * size) - 1
    low, high = bounds(name)
    if low < 0 and moved > high:
        moved -= 1 << 8 * size
    return Fraction(moved) if low <= moved <= high else None


def line_of(setup):
    """Gain and offset of the whole scale, ten included, in fractions."""
    gain, offset = Fraction(1), Fraction(0)
    if setup["scale"] and not setup.get("unscaled"):
        a, b, lo, hi = (Fraction(str(x)) for x in setup["scale"])
        gain = (hi - lo) / (b - a)
        offset = lo - a * gain
    ten = Fraction(10) ** setup["ten"]
    gain, offset = gain * ten, offset * ten
    gain, offset = gain * setup.get("wrongGain", 1), offset * setup.get("wrongGain", 1) + setup.get("wrongOffset", 0)
    for source, target in setup["units"]:
        (_, f1, o1), (_, f2, o2) = UNITS[source], UNITS[target]
        gain, offset = gain * f1 / f2, (offset * f1 + o1 - o2) / f2
    return gain, offset


def show(setup, memory):
    """The number that a party with this set-up shows, and its text."""
    code, size, kind = TYPES[setup["type"]]
    at = TAG_AT + setup["at"]
    wire = memory[at : at + size]
    if kind == "bool":
        word = int.from_bytes(unpermuted(wire, setup["order"]), "big")
        on = word >> setup["bit"] & 1
        return on, "on" if on else "off"
    raw = unpacked(setup["type"], unpermuted(wire, setup["order"]))
    if raw is not None and setup["bits"]:
        raw = shift(setup["type"], raw, setup["bits"])
    if raw is None:
        return None, "–"
    gain, offset = line_of(setup)
    value = raw * gain + offset
    if setup.get("root"):
        value = Fraction(float(abs(value)) ** 0.5) * 7
    value *= Fraction(10) ** setup["point"]
    return value, text_of(value, setup["decimals"] - setup["point"])


def text_of(value, places):
    places = max(0, places)
    digits = round_half_away(value * 10**places)
    sign = "-" if digits < 0 else ""
    text = str(abs(digits)).rjust(places + 1, "0")
    return sign + (text[:-places] + "." + text[-places:] if places else text)


def put(setup, memory, text):
    """The controller takes a value as near as it can hold it."""
    memory = bytearray(memory)
    code, size, kind = TYPES[setup["type"]]
    at = TAG_AT + setup["at"]
    if kind == "bool":
        word = int.from_bytes(unpermuted(memory[at : at + 2], setup["order"]), "big")
        word = word | 1 << setup["bit"] if text == "on" else word & ~(1 << setup["bit"])
        memory[at : at + 2] = permuted(word.to_bytes(2, "big"), setup["order"])
        return bytes(memory)
    value = Fraction(text) / Fraction(10) ** setup["point"]
    if setup.get("root"):
        value = (value / 7) ** 2
    gain, offset = line_of(setup)
    raw = (value - offset) / gain
    if setup["bits"] and kind == "int":
        raw = Fraction(floor(raw / Fraction(2) ** setup["bits"]))
    memory[at : at + size] = permuted(packed(setup["type"], raw), setup["order"])
    return bytes(memory)


SCALES = [(0, 27648), (4000, 20000), (0, 4095), (-27648, 27648), (0, 32767), (0, 10000), (819, 4095)]
SPANS = [(0, 150, "°C"), (-50, 400, "°C"), (0, 10, "bar"), (0, 16, "bar"), (0, 600, "mm"), (0, 1200, "kg"), (0, 100, "%"), (0, 3000, "1/min")]


def base_setup(rng):
    name = rng.choices(["INT", "UINT", "DINT", "UDINT", "REAL", "LREAL", "LINT", "ULINT", "UINT bcd", "BOOL"], [20, 16, 12, 9, 22, 4, 4, 3, 4, 6])[0]
    size, kind = TYPES[name][1], TYPES[name][2]
    setup = {"type": name, "order": rng.choice(ORDERS[size][:2] if rng.random() < 0.8 else ORDERS[size]), "at": 0, "bits": 0, "bit": None}
    setup |= {"scale": None, "ten": 0, "units": [], "unit": "", "point": 0, "decimals": 0, "low": None, "high": None}
    if kind == "bool":
        return setup | {"bit": rng.randrange(16), "order": "AB"}
    low, high, unit = rng.choice(SPANS)
    if kind == "real":
        return setup | {"decimals": rng.choice([1, 2, 3]), "unit": unit, "low": low, "high": high}
    if size == 2 and kind == "int" and rng.random() < 0.7:
        a, b = rng.choice([s for s in SCALES if s[0] >= 0 or name == "INT"])
        # One more place than a count is worth would show what is not there.
        worth = (high - low) / (b - a)
        return setup | {"scale": [a, b, low, high], "decimals": 0 if worth > 0.5 else 1 if worth > 0.05 else 2, "unit": unit, "low": low, "high": high}
    ten = rng.choice([0, -1, -2, -3])
    least, most = bounds(name)
    span = Fraction(10) ** ten
    return setup | {"ten": ten, "decimals": -ten, "unit": rng.choice(["kg", "mm", "", "%"]), "low": float(least * span), "high": float(most * span)}


def with_mistake(rng, setup, kind):
    """A set-up with one more mistake, or None where it cannot have that."""
    name, size = setup["type"], TYPES[setup["type"]][1]
    what = TYPES[name][2]
    if kind == "place":
        return setup | {"at": setup["at"] + 2 * rng.choice([-4, -3, -2, -1, -1, -1, 1, 1, 1, 2, 3, 4])}
    if kind == "bit":
        return setup | {"bit": rng.choice([b for b in range(16) if b != setup["bit"]])} if what == "bool" else None
    if what == "bool":
        return None
    if kind == "width":
        other = rng.choice(OTHER_WIDTH.get(name, [None]))
        return other and setup | {"type": other, "order": widened(setup["order"], TYPES[other][1])}
    if kind == "sign":
        return setup | {"type": SIGNS[name]} if name in SIGNS else None
    if kind == "type":
        return setup | {"type": rng.choice(SAME_WIDTH[name])} if name in SAME_WIDTH else None
    if kind == "order":
        return setup | {"order": rng.choice([o for o in ORDERS[size] if o != setup["order"]])}
    if kind == "shift":
        return setup | {"bits": rng.choice([-8, -4, -3, -2, -1, 1, 2, 3, 4, 8])} if what == "int" else None
    if kind == "ends":
        return setup | {"scale": [*setup["scale"][:2], setup["scale"][3], setup["scale"][2]]} if setup["scale"] else None
    if kind == "unscaled":
        return setup | {"unscaled": True} if setup["scale"] else None
    if kind == "ten":
        return setup | {"ten": setup["ten"] + rng.choice([-3, -2, -1, -1, 1, 1, 2, 3])}
    if kind == "unit":
        family = UNITS[setup["unit"]][0]
        others = [u for u, (f, _, _) in UNITS.items() if f == family and u != setup["unit"]] if family else []
        if not others:
            return None
        other = rng.choice(others)
        return setup | {"units": rng.choice([[(other, setup["unit"])], [(setup["unit"], other)]])}
    if kind == "point":
        places = rng.choice([p for p in range(0, 5) if p != setup["decimals"]])
        return setup | {"point": setup["decimals"] - places}
    raise ValueError(kind)


# In the order of the signal path, as two of them are combined. Kinds of one step are not combined.
STEPS = [["place"], ["width"], ["sign", "type"], ["order"], ["bit"], ["shift"], ["ends", "unscaled"], ["ten"], ["unit"], ["point"]]
OUTSIDE = ["gain", "offset", "far", "root", "three", "stuck", "shift5", "otherSpan"]


def outside(rng, setup, kind):
    what = TYPES[setup["type"]][2]
    if what == "bool":
        return None
    if kind == "gain":
        return setup | {"wrongGain": Fraction(rng.choice([93, 107, 112, 115]), 100)}
    if kind == "offset":
        return setup | {"wrongOffset": Fraction(str(setup["high"] - setup["low"])) * rng.choice([37, 53, -41]) / 1000}
    if kind == "far":
        return setup | {"at": rng.choice([10, 12, 14]), "isFar": True}
    if kind == "root":
        return setup | {"root": True}
    if kind == "stuck":
        return setup | {"stuck": text_of(Fraction(str(setup["low"])) + Fraction(str(setup["high"] - setup["low"])) * 29 / 97, setup["decimals"])}
    if kind == "shift5":
        return setup | {"bits": rng.choice([5, -5, 6, -6])} if what == "int" else None
    if kind == "otherSpan":
        if not setup["scale"] or setup["scale"][:2] != [0, 27648]:
            return None
        return setup | {"scale": [0, 32767, *setup["scale"][2:]]}
    steps = sorted(rng.sample(range(len(STEPS)), 3))
    made = setup
    for at in steps:
        made = made and with_mistake(rng, made, rng.choice(STEPS[at]))
    return made


def differs(rng, case, memory, side):
    """Whether the mistake is seen at some of the values that may be tried."""
    ours, other = case["ours"], case["other"]
    seen = 0
    for _ in range(40):
        value = rng.choice(["on", "off"]) if ours["low"] is None else text_of(Fraction(str(ours["low"])) + Fraction(str(ours["high"] - ours["low"])) * rng.randrange(1000) / 999, ours["decimals"])
        held = put(other if side == "ours" else ours, memory, value)
        seen += (other.get("stuck") or show(other, held)[1]) != show(ours, held)[1]
    return seen >= 3


CASES = []


def make(count, seed):
    rng = random.Random(seed)
    CASES.clear()
    wanted = ["single"] * round(count * 0.4) + ["double"] * round(count * 0.35) + ["outside"] * round(count * 0.15)
    wanted += ["right"] * (count - len(wanted))
    for how in wanted:
        while True:
            ours = base_setup(rng)
            kinds = []
            other = ours
            if how in ("single", "double"):
                for at in sorted(rng.sample(range(len(STEPS)), 1 if how == "single" else 2)):
                    kind = rng.choice(STEPS[at])
                    kinds.append(kind)
                    other = other and with_mistake(rng, other, kind)
            elif how == "outside":
                kinds = [rng.choice(OUTSIDE)]
                other = outside(rng, ours, kinds[0])
            if not other or TAG_AT + other["at"] < 0 or TAG_AT + other["at"] + TYPES[other["type"]][1] > MEMORY:
                continue
            case = {"ours": ours, "other": other}
            memory = bytes(rng.randrange(256) for _ in range(MEMORY))
            side = rng.choice(["ours", "panel"]) if kinds != ["stuck"] else "panel"
            if how == "right" or differs(rng, case, memory, side):
                break
        CASES.append(case | {"memory": memory, "side": side, "how": how, "mistakes": kinds})
    return [
        {"id": i, "how": c["how"], "side": c["side"], "mistakes": c["mistakes"], "ours": c["ours"], "tagAt": TAG_AT} for i, c in enumerate(CASES)
    ]


def answer(line):
    if "make" in line:
        return {"cases": make(line["make"], line["seed"])}
    case = CASES[line["case"]]
    other = case["other"]
    if "read" in line:
        shown = [show(other, bytes.fromhex(text))[0] for text in line["read"]]
        return {"shown": [None if value is None or abs(value) > 10**30 else float(value) for value in shown]}
    memory = bytearray(case["memory"])
    if "drive" in line:
        memory = put(other, memory, line["drive"])
    else:
        wire = bytes.fromhex(line["bytes"])
        memory[TAG_AT : TAG_AT + len(wire)] = wire
        memory = bytes(memory)
    seen = other.get("stuck") or show(other, memory)[1]
    return {"memory": memory.hex(), "seen": seen}


for line in sys.stdin:
    print(json.dumps(answer(json.loads(line))), flush=True)
