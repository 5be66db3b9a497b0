"""One piece or load from its tokens: a wire, a fixed piece, a load with its law."""

from collections.abc import Callable
from dataclasses import replace
from difflib import get_close_matches
from typing import get_args

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Duty,
    FixedKind,
    FixedPiece,
    Load,
    LoadLaw,
    Size,
)
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.quantities import understand, understand_size
from spare_margin.wording.language.units import in_use

from .segments import Segment, Wrong
from .vocabulary import (
    DUTY_WORDS,
    KIND_WORDS,
    LOAD_WORDS,
    PLAIN_STYLES,
    SHORT_TIME_WORDS,
    TRADE_WORDS,
    TWIN,
    UNKNOWN,
    WIRE_WORDS,
)

LIKE = 0.74
"""A word this like one of ours is a slip of the fingers, as fuze is."""
ACCEPTED = (
    "a wire as 2.5 mm\u00b2 4.8 m, fuse 15, switch, isolator, ring, pin, splice, clamp, relay, body, "
    'resistor 2 \u03a9, load "Fan" 2 A, or a test point as [Bus]'
)


class Elements:
    """Reads the pieces and the one load of a text; positions are those of the whole text."""

    def __init__(self, text: str, nominal_v: float, tables: Tables) -> None:
        self.text, self.nominal_v, self.tables = text, nominal_v, tables

    def piece(self, seg: Segment) -> AnyPiece:
        """A wire where a size or a length says so, else a fixed piece. Raises Wrong."""
        is_wire = (
            bool(seg.sizes or seg.ohm_per_m)
            or "metres" in seg.quantities
            or any(w.lower() in WIRE_WORDS for w, _, _ in seg.words)
        )
        if not is_wire and not seg.words and seg.quantities.get("amperes"):
            seg.words.append(("fuse", seg.start, seg.end))  # 15 amp, by itself, is a fuse
        piece = self._wire(seg) if is_wire else self._fixed(seg)
        self._rest(seg)
        return piece

    def _wire(self, seg: Segment) -> Conductor:
        if not seg.sizes and not seg.ohm_per_m and seg.bare:
            number, a, b = seg.bare.pop(0)
            seg.sizes.append((f"{number:g}", a, b))
        length = seg.take("metres")
        if length is None and seg.bare:
            length = understand(f"{seg.bare.pop(0)[0]:.12g}", "metres", "line").value
        size = None
        twin = seg.twin or any(w.lower() == TWIN for w, _, _ in seg.words)
        engine, finish = self._wire_words(seg)
        if seg.sizes:
            size = self._size(*seg.sizes.pop(0), finish)
        per_m = seg.ohm_per_m.pop(0)[0] if seg.ohm_per_m else None
        ohm = seg.take("ohms")
        if length is not None and not 0 < length <= 1000:
            raise Wrong(seg.start, seg.end, f"{length:g} m is no length", "above 0 up to 1000 m")
        insulation = seg.take("celsius")
        if insulation is not None and not 40 <= insulation <= 300:
            raise Wrong(
                seg.start, seg.end, f"{insulation:g} \u00b0C is no insulation", "40 to 300 \u00b0C"
            )
        return Conductor(
            id="", start="", end="", side="feed", name=seg.text or "", length_m=length or 0.0,
            size=size, ohm_per_m=None if size else per_m, insulation_c=insulation,
            resistance_ohm=ohm, engine_space=engine, cable=TWIN if twin else "",
        )  # fmt: skip

    def _wire_words(self, seg: Segment) -> tuple[bool, str]:
        """Whether it runs in the engine space, and the finish."""
        engine, finish = False, "plain"
        finishes = {size.finish for size in self.tables.conductors.rows}
        for word in list(seg.words):
            plain = word[0].lower()
            if plain not in (*WIRE_WORDS, "engine", *finishes):
                continue
            seg.words.remove(word)
            engine = engine or plain == "engine"
            finish = plain if plain in finishes else finish
        return engine, finish

    def _size(self, token: str, a: int, b: int, finish: str) -> Size:
        road = token.lower().endswith("road")
        try:
            size = understand_size(
                token[:-4] if road else token, "size", "mm2-road" if road else in_use().size, finish
            )
        except JobError as wrong:
            raise Wrong(a, b, wrong.problem, wrong.accepted) from None
        rows = self.tables.conductors.rows
        for tried in (size, replace(size, finish=finish), replace(size, finish="plain")):
            if tried in rows:
                return tried
        sizes = ", ".join(self.tables.conductors.sizes(size.system))
        raise Wrong(a, b, f"there is no size {token.strip()}", sizes)

    def _fixed(self, seg: Segment) -> FixedPiece:
        is_open = False
        for word in list(seg.words):
            if word[0].lower() == "open" and len(seg.words) > 1:
                seg.words.remove(word)
                is_open = True
        called = self._trade_words(seg)
        kind, style = self._kind(seg)
        rating = seg.take("amperes")
        if kind in ("fuse", "breaker") and rating is None and seg.bare:
            rating = seg.bare.pop(0)[0]
        ohm = seg.take("ohms")
        if rating is not None and not 0 < rating <= 5000:
            raise Wrong(
                seg.start, seg.end, f"{rating:g} A is not a valid rating", "above 0 up to 5000 A"
            )
        if ohm is not None and not 0 <= ohm <= 1e6:
            raise Wrong(seg.start, seg.end, f"{ohm:g} \u03a9 is no resistance", "0 \u03a9 or more")
        if kind == "resistor" and ohm is None:
            raise Wrong(seg.start, seg.end, "the resistor has no resistance", "resistor 2.2 \u03a9")
        return FixedPiece(
            id="", start="", end="", side="feed", name=seg.text or called, kind=kind, style=style,
            rating_a=rating, resistance_ohm=ohm, open=is_open,
        )  # fmt: skip

    def _trade_words(self, seg: Segment) -> str:
        """Says a piece's own words for what people call it besides; the name it is then drawn with."""
        said = " ".join(w.lower() for w, _, _ in seg.words)
        meant = TRADE_WORDS.get(said)
        if meant is None:
            return self._first_words(seg, said)
        a, b = seg.words[0][1], seg.words[-1][2]
        seg.words = [(word, a, b) for word in meant.split()]
        kept = meant.startswith("fuse") or meant == "isolator"
        return "" if kept else said.capitalize()

    def _first_words(self, seg: Segment, said: str) -> str:
        """The name of a piece that is called by what stands before its kind, as main switch is."""
        words = [w.lower() for w, _, _ in seg.words]
        if len(words) < 2 or words[0] in KIND_WORDS or words[-1] not in (*KIND_WORDS, *TRADE_WORDS):
            return ""
        if any(
            s.startswith(said)
            for kind in get_args(FixedKind)
            for s in self.tables.fixed.styles(kind)
        ):
            return ""
        seg.words = seg.words[-1:]
        self._trade_words(seg)
        return said.capitalize()

    def names_a_piece(self, seg: Segment) -> bool:
        """Whether the words of a stretch name a piece rather than a load, or are close to such a word."""
        words = [w.lower() for w, _, _ in seg.words]
        said = " ".join(words)
        if not words or said in TRADE_WORDS or words[0] in (*KIND_WORDS, *WIRE_WORDS, UNKNOWN):
            return True
        if words[-1] in (*KIND_WORDS, *TRADE_WORDS):
            return True
        styles = {s for _, s in PLAIN_STYLES if s}
        if any(style.startswith(said) or style.endswith(said) for style in styles):
            return True
        known = [*KIND_WORDS, *TRADE_WORDS, *WIRE_WORDS]
        return bool(get_close_matches(words[0], known, n=1, cutoff=LIKE))

    def _kind(self, seg: Segment) -> tuple[FixedKind, str | None]:
        """The kind and style that a segment's words name; a style alone, or its start, names both."""
        said = " ".join(w.lower() for w, _, _ in seg.words)
        here = (seg.words[0][1], seg.words[-1][2]) if seg.words else (seg.start, seg.end)
        seg.words.clear()
        for words in sorted(KIND_WORDS, key=len, reverse=True):
            if said == words:
                return KIND_WORDS[words], None
            if said.startswith(f"{words} "):
                kind, rest = KIND_WORDS[words], said[len(words) + 1 :]
                styles = self.tables.fixed.styles(kind)
                for style in styles:
                    if style == rest or style.startswith(rest):
                        return kind, style
                raise Wrong(
                    *here, f"there is no {words} of style {rest}",
                    ", ".join(styles) or f"{words} without a style",
                )  # fmt: skip
        every: list[tuple[FixedKind, str]] = [
            (kind, s) for kind in get_args(FixedKind) for s in self.tables.fixed.styles(kind)
        ]
        for fits in (str.__eq__, str.startswith, str.endswith):
            for kind, style in every:
                if said and fits(style, said):
                    return kind, style
        shown = self.text[seg.start : seg.end]
        shown = shown if len(shown) <= 40 else shown[:37] + "..."
        raise Wrong(seg.start, seg.end, f"\u201c{shown}\u201d is not understood", ACCEPTED)

    def _rest(self, seg: Segment) -> None:
        """Nothing of a segment may be left over: what was typed is never quietly dropped."""
        over = [*seg.words, *seg.sizes, *seg.bare, *seg.times, *seg.ohm_per_m]
        over += [*seg.at_volts, *seg.least_volts]
        over += [q for held in seg.quantities.values() for q in held]
        if over:
            _, a, b = min(over, key=lambda token: token[1])
            raise Wrong(
                a, b, f"\u201c{self.text[a:b]}\u201d does not belong here",
                'a > between pieces, and names in quotes, as "Pump feed"',
            )  # fmt: skip

    # Loads

    def load(self, seg: Segment) -> Load:
        """A load; several in one line are in series. Raises Wrong."""
        by_name = seg.words[0][0].lower() not in LOAD_WORDS
        called = "" if by_name else seg.words.pop(0)[0].lower()
        law = LOAD_WORDS.get(called)
        critical, duty = self._duty(seg)
        name = self._load_name(seg, called if law is not None else "")
        unknown = next((w for w in seg.words if w[0] == UNKNOWN), None)
        if unknown is not None:
            seg.words.remove(unknown)
        if unknown is not None or not seg.says_figures():
            load = Load(id="", start="", end="", name=name)
        else:
            load = self._law(seg, law, name)
        times = seg.times.pop(0)[0] if seg.times else None
        if times is not None and not 1 <= times <= 20:
            raise Wrong(
                seg.start, seg.end, f"\u00d7{times:g} is no start multiple", "\u00d71 to \u00d720"
            )
        load = replace(
            load, start_multiple=times, critical=critical,
            duty=duty or ("short_time" if by_name and is_short_time(name) else "ordinary"),
            least_v=seg.least_volts.pop(0)[0] if seg.least_volts else None,
        )  # fmt: skip
        if (length := next(iter(seg.quantities.get("metres", ())), None)) is not None:
            raise Wrong(
                *length[1:],
                "a load has no length; give it to its wire",
                f'cable 4 m > load "{name}" 2 A',
            )
        self._rest(seg)
        return load

    def _duty(self, seg: Segment) -> tuple[bool, Duty | None]:
        """Whether it must not fail, and its duty, where the words say so."""
        critical, duty = False, None
        for word in list(seg.words):
            plain = word[0].lower()
            if plain == "critical":
                seg.words.remove(word)
                critical = True
            elif plain in DUTY_WORDS:
                seg.words.remove(word)
                duty = DUTY_WORDS[plain]
        return critical, duty

    def _load_name(self, seg: Segment, kind: str) -> str:
        """What a load is called: in quotes, by the words left, else by its kind, as lamp."""
        name = seg.text
        if name is None and seg.words:
            name = " ".join(w for w, _, _ in seg.words if w != UNKNOWN)
            seg.words = [w for w in seg.words if w[0] == UNKNOWN]
        if not name and not kind:
            raise Wrong(seg.start, seg.end, "the load has no name", 'load "Fan" 2 A')
        return name or kind.capitalize()

    def _law(self, seg: Segment, law: LoadLaw | None, name: str) -> Load:
        amps, watts, ohm = seg.take("amperes"), seg.take("watts"), seg.take("ohms")
        rated = seg.at_volts.pop(0)[0] if seg.at_volts else None
        make: Callable[..., Load] = lambda behaviour, **more: Load(  # noqa: E731
            id="", start="", end="", name=name, behaviour=behaviour, **more
        )
        for value, unit, most in ((amps, "A", 5000), (watts, "W", 1e5), (ohm, "\u03a9", 1e6)):
            if value is not None and not 0 < value <= most:
                raise Wrong(
                    seg.start,
                    seg.end,
                    f"{value:g} {unit} is no load",
                    f"above 0 up to {most:g} {unit}",
                )
        if amps is not None and watts is None and ohm is None and law in (None, "constant_current"):
            return make("constant_current", current_a=amps)
        if (
            ohm is not None
            and watts is None
            and amps is None
            and law in (None, "constant_resistance")
        ):
            return make("constant_resistance", load_ohm=ohm)
        if law in ("filament", "constant_resistance") and amps is not None and watts is None:
            watts, amps = amps * (rated or self.nominal_v), None
        if watts is not None and amps is None and ohm is None:
            if law in ("filament", "constant_resistance"):
                return make(law, power_w=watts, rated_v=rated or self.nominal_v)
            if law in (None, "constant_power"):
                return make("constant_power", power_w=watts, rated_v=rated)
        raise Wrong(
            seg.start, seg.end, "what it draws is not clear",
            "load 2 A, motor 6 A x4, lamp 21 W at 12 V, heater 60 W at 12 V or converter 40 W",
        )  # fmt: skip


def is_short_time(name: str) -> bool:
    """Whether a load of this name runs for a short time, as a windlass does."""
    return any(word in name.lower().split() for word in SHORT_TIME_WORDS)
