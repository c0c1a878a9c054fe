"""What a column's name says of it, in the languages that loggers are made for: quantity, axis, unit, side, place.

A word list says what the writer may have meant, never what is so: shape and physics weigh it (`columns`, `units`).
"""

import re
import unicodedata
from dataclasses import dataclass, field

ACCEL, LINEAR, GRAVITY, GYRO, MAG = "accel", "linear", "gravity", "gyro", "mag"
QUAT, EULER, TEMP, PRESSURE, BATTERY = "quat", "euler", "temperature", "pressure", "battery"
TIME, COUNTER, LOAD, LABEL, DATE, POSITION = "time", "counter", "load", "label", "date", "position"

#: English, German, French, Spanish, Italian, Portuguese, Dutch, Norwegian, Swedish, Danish, Polish, Finnish
QUANTITIES: tuple[tuple[str, str], ...] = (
    (
        LINEAR,
        r"\blinear\b|lin(ear)?[ ]?acc|user[ ]?acc|free[ ]?acc|acc\w* lin|gravity[ ]?(free|removed|less)|dynamic acc|linear\w* beschl|acceleration lineaire|aceleracion lineal|accelerazione lineare|aceleracao linear|lineaire versnelling|lineær|linjar|lineaarinen|sans gravite|ohne schwerkraft|sin gravedad|senza gravita|sem gravidade|zonder zwaartekracht|without gravity|no gravity|linacc|lacc",
    ),
    (
        GRAVITY,
        r"^grav(ity)?\b|\bgravity\b|schwerkraft|gravite\b|gravedad|gravita\b|gravidade|zwaartekracht|tyngdekraft|grawitac",
    ),
    (
        GYRO,
        r"gyr|giro\b|giros|\bvit ang|angular ?(vel|rate)|ang ?vel|ang ?rate|omega|rot(ation(al)?)? ?(rate|vel|speed)|rotational|turn ?rate|drehrate|winkelgeschw|drehgeschw|vitesse (angulaire|de rotation)|velocidad angular|velocidad de giro|velocita angolare|velocidade angular|hoeksnelheid|draaisnelheid|vinkelhast|predkosc kat|kulmanopeus|giroscop|gyroskop|zyroskop|^rot\b|\brotation\b|^rr\b|\bang\b",
    ),
    (MAG, r"mag(n|\b|_|x|y|z)|compass|magnet|kompass|^b[xyz]?$|^m[xyz]$"),
    (QUAT, r"quat|^q ?[wxyz0123]$|orientation ?[wxyz0123]\b"),
    (
        EULER,
        r"euler|roll|pitch|yaw|heading|azimuth|\binclin|tilt ?angle|nick|gier|lacet|tangage|roulis|cabeceo|guinada|\bangle\b|winkel\b|kurs\b|psi|theta|phi",
    ),
    (TEMP, r"\btemp\b|temper|celsius"),
    (PRESSURE, r"press|baro|altitude|druck|pression|presion|hohe\b"),
    (BATTERY, r"batt|volt|akku|charge|rssi|signal"),
    (ACCEL, r"\bg ?force"),
    (
        LOAD,
        r"load\b|force|\bgrf\b|\bfz\b|plate|insole|\bsole\b|heel|forefoot|toe\b|kraft|last\b|ferse|vorfuss|talon|avant ?pied|talon|fuerza|carga|forza|carico|forca|kracht|hiel|voorvoet|belastning|nacisk|sila\b|\bnewton",
    ),
    (ACCEL, r"acc|beschl|acel|versn|aksel|\baks\b|przysp|kiihty|specific force|\bg ?force"),
    (
        COUNTER,
        r"count|sample ?(no|nr|num|id|index|#)|^samples?$|\bpacket|\bindex\b|^idx$|^n$|^no$|^nr$|^#$|sequence|^seq|frame|probe(nummer)?$|zahler|compteur|contador|contatore|teller|numero|^num$|probka|naytе|^row$|^id$|\btick",
    ),
    (
        TIME,
        r"time|stamp|zeit|temps|tiempo|tempo\b|tijd|^tid|tidspunkt|czas|aika|\bt\b|^sec(onds?)?$|elapsed|uhr|heure|hora\b|^ora\b|epoch|clock|horodat|milli ?s|^ms$|^us$|\bzeit|czas|^s$|sekunden|secondes|segundos|secondi|sekunder",
    ),
    (DATE, r"^date\b|datum|^fecha|^data$|^dato$"),
    (LABEL, r"label|class|activity|marker|event|annot|state|flag|status|note|trigger|ereignis|etiquette|etiqueta"),
    (POSITION, r"\blat\b|\blon\b|gps|speed|position|\bpos\b|veloc(ity)? ?[xyz]|displacement"),
)
QUANTITY_RE = tuple((kind, re.compile(words)) for kind, words in QUANTITIES)

ACCEL_FACTORS = {"m/s^2": 1.0, "g": 9.80665, "mg": 9.80665e-3, "cm/s^2": 0.01, "mm/s^2": 1e-3}
GYRO_FACTORS = {
    "rad/s": 1.0,
    "deg/s": 0.017453292519943295,
    "mdeg/s": 1.7453292519943296e-5,
    "mrad/s": 1e-3,
    "rpm": 0.10471975511965977,
}
LOAD_FACTORS = {"N": 1.0, "kN": 1000.0, "kgf": 9.80665, "lbf": 4.4482216}
TIME_FACTORS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}

#: what the text of a unit may look like, most telling first
UNITS: tuple[tuple[str, str, str], ...] = (
    ("accel", "cm/s^2", r"cm ?/ ?s(\^?2|²|\*\*2|/s)|cm ?s-2|\bgal\b"),
    ("accel", "mm/s^2", r"mm ?/ ?s(\^?2|²|\*\*2|/s)|mm ?s-2"),
    (
        "accel",
        "m/s^2",
        r"m ?/ ?\(?s(ec)?(\^ ?2|²|2|\*\*2| ?/ ?s|\^\{2\}|/sec)|m[ .·*]?s ?(\^ ?)?[-−⁻](2|²)|\bmps2?\b|m per s|m/sec2|\bmss\b|meters? per second|metre",
    ),
    ("accel", "mg", r"(?<![a-z])m[gG](?![a-z])|milli ?g\b"),
    ("accel", "g", r"(?<![a-z])g(?![a-z])|\bg0\b|\bg ?force"),
    ("gyro", "mdeg/s", r"m ?deg ?/ ?s|mdps|millideg|m°/s"),
    ("gyro", "mrad/s", r"mrad"),
    (
        "gyro",
        "deg/s",
        r"deg(rees?)?[ _]?(/|per|p)?[ _]?s|\bdps\b|[°º˚]|grad/s|grados|degres|gradi|graus|graden|\bdeg\b",
    ),
    ("gyro", "rad/s", r"rad(ians?)?[ _]?(/|per|p|\.)?[ _]?s?\b|\brps\b"),
    ("gyro", "rpm", r"\brpm\b|u/min|tr/min|\brev/min"),
    ("load", "kN", r"\bkn\b"),
    ("load", "kgf", r"\bkgf?\b|\bkp\b|kilo(gram|pond)"),
    ("load", "lbf", r"\blbf?s?\b|pound"),
    ("load", "N", r"(?<![a-z])n(?![a-z])|newton"),
    ("time", "us since 1970", r"us since 1970"),
    ("time", "ns", r"nano|(?<![a-z])ns(?![a-z])|nsec"),
    ("time", "us", r"micro|(?<![a-z])[uµμ]s(?![a-z])|[uµμ]sec"),
    ("time", "ms", r"milli|(?<![a-z])ms(?![a-z])|msec|milis"),
    ("time", "s", r"(?<![a-z/^])s(ec(onds?|s)?|ek(unden?|under?)?)?(?![a-z²^])|secondes?|segundos?|secondi"),
)
UNIT_RE = tuple((kind, unit, re.compile(words, re.I)) for kind, unit, words in UNITS)

SIDES = (
    (
        "left",
        r"\b(left|links?|linke[rs]?|linkes|gauche|izq(uierd[ao])?|sinistr[ao]|sx|esquerd[ao]|venstre|vanster|lewy|lewa|vasen|lh|lft|lt|l)\b",
    ),
    (
        "right",
        r"\b(right|rechts?|rechte[rs]?|rechtes|droite?|der(echa|echo)?|destr[ao]|dx|direit[ao]|hoyre|høyre|hojre|højre|hoger|prawy|prawa|oikea|rh|rgt|rt|r)\b",
    ),
)
PLACES = (
    ("bag", r"bag|sack|sandsack|boxsack|target|sac\b|saco|sacco|boks(e|ing)?sekk|boxsack|worek|bokszak|heavy"),
    (
        "forearm",
        r"fore ?arm|elbow|unterarm|avant ?bras|antebrazo|avambraccio|antebraco|onderarm|underarm|przedrami|ellbogen|coude|codo|gomito",
    ),
    (
        "wrist",
        r"wrist|hand\b|hands\b|fist|glove|handgelenk|poignet|muneca|polso|pulso|pols\b|handledd|handled|nadgarst|ranne|main\b|mano\b|mao\b|faust|handschuh|watch|uhr\b|montre",
    ),
    (
        "ankle",
        r"ankle|shank|shin\b|tibia|foot\b|leg\b|knochel|sprunggelenk|unterschenkel|schienbein|cheville|jambe|tobillo|pierna|caviglia|gamba|tornozelo|perna|enkel|ankel|fotled|kostka|nilkka|pied\b|pie\b|piede",
    ),
    (
        "pelvis",
        r"pelvis|hips?\b|belt|sacrum|sacral|waist|lumbar|becken|hufte|gurtel|bassin|hanche|ceinture|cadera|cintura|pelvi|bacino|cintola|quadril|bekken|heup|riem|hofte|backen|midja|biodr|lantio|lower ?back|kreuz",
    ),
    (
        "torso",
        r"torso|chest|trunk|stern|thorax|back\b|spine|upper ?body|brust|rumpf|oberkorper|rucken|poitrine|tronc|dos\b|pecho|espalda|petto|schiena|tronco|peito|costas|borst|romp|rug\b|bryst|brost|rygg|klatka|rinta",
    ),
)
SIDE_RE = tuple((side, re.compile(words)) for side, words in SIDES)
PLACE_RE = tuple((place, re.compile(words)) for place, words in PLACES)
AXIS_RE = re.compile(
    r"(?<![a-z])(?P<a>[xyz])(?![a-z])|(?:acc\w*?|acel\w*?|beschl\w*?|gyro?\w*?|mag\w*?|giro\w*?|rot\w*?|omega|lin\w*?|grav\w*?|euler|vel|\b[agmwqbl])(?P<b>[xyz])(?![a-z])|(?<![a-z])(?P<c>[xyz])(?:ach?se|[- ]?axis|[- ]?axe|[- ]?eje|[- ]?asse|[- ]?eixo|[- ]?as\b|[- ]?akse)"
)
QUAT_AXIS_RE = re.compile(r"(?:quat\w*|q|orientation|rotation)?[ ]?(?P<a>[wxyz0123])(?![a-z0-9])")
SHORT = {"a": ACCEL, "g": GYRO, "w": GYRO, "m": MAG, "q": QUAT, "b": MAG}
SHORT_RE = re.compile(r"(?<![a-z])(?P<k>[agwmqb])[ ]?(?P<x>[xyz])(?![a-z])")


@dataclass(slots=True)
class Said:
    """What a name says. Nothing it does not say is in here."""

    quantity: str = ""
    axis: str = ""  #: x, y, z; of a quaternion also w
    unit: tuple[str, str] | None = None  #: quantity that is measured so, and the unit
    stem: str = ""  #: what is left: which unit of several it belongs to
    weak: bool = False  #: the quantity rests on one letter
    side: str = field(default="")
    place: str = field(default="")


def plain(text: str) -> str:
    """Lower case without accents, parts of a name apart: `leftWrist_AccX` is `left wrist acc x`."""
    text = re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Za-zµμ°])(?=\d)(?!\d*[\])²^])", " ", text)
    text = unicodedata.normalize(
        "NFKD", text.replace("ß", "ss").replace("ø", "o").replace("Ø", "o").replace("ł", "l").replace("æ", "ae")
    )
    text = "".join(c for c in text if not unicodedata.combining(c)).lower()
    return re.sub(r"[_\-.,;:|/\\]+", " ", text).strip()


def _brackets(name: str) -> tuple[str, str]:
    """A name, and what stands in its brackets or after a slash or comma at its end, as a unit."""
    inside = " ".join(re.findall(r"[\[({<]([^\])}>]*)[\])}>]", name))
    outside = re.sub(r"[\[({<][^\])}>]*[\])}>]", " ", name)
    return outside, inside


def unit_in(text: str, wanted: str = "") -> tuple[str, str] | None:
    """The unit that a text names; of the wanted quantity where it could be several."""
    if not text.strip():
        return None
    hits = [(kind, unit) for kind, unit, words in UNIT_RE if words.search(text)]
    for hit in hits:
        if not wanted or hit[0] == wanted:
            return hit
    return hits[0] if hits else None


def said_of(name: str, unit: str = "", device: str = "") -> Said:
    outside, inside = _brackets(name)
    text = f"{plain(outside)}"
    out = Said()
    short = SHORT_RE.search(text)
    quantity = next((kind for kind, words in QUANTITY_RE if words.search(text)), "")
    if not quantity and short:
        quantity, out.weak = SHORT[short["k"]], True
    if not quantity:
        quantity = next((kind for kind, words in QUANTITY_RE if words.search(plain(inside))), "")
    out.axis = axis_of(text) or axis_of(plain(inside))
    if quantity == QUAT:
        found = QUAT_AXIS_RE.findall(text)
        out.axis = found[-1] if found else out.axis
    out.quantity = quantity
    wanted = {
        ACCEL: "accel",
        LINEAR: "accel",
        GRAVITY: "accel",
        GYRO: "gyro",
        LOAD: "load",
        TIME: "time",
        COUNTER: "time",
    }.get(quantity, "")
    out.unit = _unit(name, inside, unit, outside, wanted)
    if not out.quantity and out.unit and out.axis and out.unit[0] in ("accel", "gyro"):
        out.quantity = ACCEL if out.unit[0] == "accel" else GYRO
    out.stem = _stem(text, device)
    out.side, out.place = side_of(f"{device} {outside}"), place_of(f"{device} {outside}")
    return out


TURNS = (("x", r"\broll|rollio|gamma"), ("y", r"pitch|nick|beta"), ("z", r"yaw|gier|heading|azimuth|alpha"))
DIRECTIONS = (
    ("z", r"vert(ical|ikal)?\b"),
    ("y", r"\bml\b|mediolateral|lateral"),
    ("x", r"\bap\b|antero|sagittal|front"),
)


def axis_of(text: str) -> str:
    hits = list(AXIS_RE.finditer(text))
    alone = [h["a"] or h["c"] for h in hits if h["a"] or h["c"]]
    if alone:
        return str(alone[-1])
    joined = [h["b"] for h in hits if h["b"] and not re.match(r"grav", h.group())]
    if joined:
        return str(joined[-1])
    return next((axis for axis, words in (*TURNS, *DIRECTIONS) if re.search(words, text)), "")


def _unit(name: str, inside: str, row: str, outside: str, wanted: str) -> tuple[str, str] | None:
    for text in (row, inside):
        found = unit_in(text, wanted)
        if found is not None:
            return found
    # `acc_x_g`, `gyr_x_dps`, `time_ms`, `AccX m/s^2`
    tail = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", outside)
    strict = {
        "accel": r"(?:^|[ _.\-])(m/s\^?2|m/s²|m/s/s|mps2|ms2|ms-2|ms\^-2|mg|g)\s*$",
        "gyro": r"(?:^|[ _.\-])(dps|mdps|deg/s|degs|deg_s|deg|°/s|rads|rad/s|rad_s|rad|rps|rpm)\s*$",
        "time": r"(?:^|[ _.\-])(s|ms|us|µs|ns|sec|secs|seconds|msec|usec|millis|micros|milliseconds|microseconds|nanoseconds)\s*$",
        "load": r"(?:^|[ _.\-])(n|kn|kg|kgf|lbf?|newtons?)\s*$",
    }
    if wanted:
        found_tail = re.search(strict[wanted], tail.strip(), re.I)
        if found_tail:
            text = (
                found_tail[1]
                .lower()
                .replace("ms2", "m/s2")
                .replace("ms-2", "m/s2")
                .replace("ms^-2", "m/s2")
                .replace("rads", "rad/s")
                .replace("degs", "deg/s")
            )
            return unit_in(text, wanted)
    if re.search(r"[/²°^]", outside):
        return unit_in(outside, wanted)
    return None


def _stem(text: str, device: str) -> str:
    """The name without quantity, axis and unit."""
    rest = text
    for kind, words in QUANTITY_RE:
        if kind in (ACCEL, LINEAR, GRAVITY, GYRO, MAG, QUAT, EULER, LOAD):
            rest = re.sub(rf"\w*(?:{words.pattern})\w*", " ", rest)
    rest = SHORT_RE.sub(" ", rest)
    rest = re.sub(
        r"(?<![a-z])[xyzw](?![a-z])|\b(m s ?2|m s|rad s|deg s|dps|mdps|rad|deg|mg|g|s2|ms 2|raw|data|value|sensor|calibrated|cal|imu|inertial|linear|angular|velocity|rate|axis|achse|axe|eje|asse|eixo|low|wide|noise|ln|wr|signal|angulaire|vitesse|lineaire|ation|leration|eration|erometer|eleration|ometer|oscope|oscop)\b",
        " ",
        rest,
    )
    rest = re.sub(r"[^a-z0-9]+", " ", rest)
    return re.sub(r"\s+", " ", f"{plain(device)} {rest}").strip()


def side_of(text: str) -> str:
    low = plain(text)
    found = [side for side, words in SIDE_RE if words.search(low)]
    if len(found) == 1:
        return found[0]
    short = re.search(r"(?<![a-z])(?P<s>[lr])(?:wrist|hand|ankle|foot|fore|arm|sole|w|a|f|h)?(?![a-z])", low)
    return {"l": "left", "r": "right"}[short["s"]] if not found and short else ""


def place_of(text: str) -> str:
    """A placement of ours, or one without its side; "" where none is named."""
    low = plain(text)
    part = next((place for place, words in PLACE_RE if words.search(low)), "")
    if part in ("bag", "pelvis", "torso"):
        return part
    side = side_of(text)
    if part and side:
        return f"{side}{part}"
    short = re.search(r"(?<![a-z])(?P<s>[lr])[ _]?(?P<p>wrist|hand|ankle|foot|w|a|f)(?![a-z])", low)
    if short and not part:
        return {"l": "left", "r": "right"}[short["s"]] + {
            "w": "wrist",
            "wrist": "wrist",
            "hand": "wrist",
            "a": "ankle",
            "ankle": "ankle",
            "foot": "ankle",
            "f": "forearm",
        }[short["p"]]
    return ""
