"""How days are written in ten languages, as patterns over plain small letters; what a line says besides its days."""

import re

_MONTHS = (
    "january|jan|januar|janvier|janv|enero|ene|gennaio|gen|janeiro|januari|jaenner|janner|stycznia|styczen",
    "february|feb|februar|fevrier|fev|febrero|febbraio|fevereiro|februari|lutego|luty",
    "march|mar|marz|maerz|mrz|mars|marzo|marco|maart|mrt|marca|marzec|marts",
    "april|apr|avril|avr|abril|abr|aprile|kwietnia|kwiecien",
    "may|mai|mayo|maggio|mag|maio|mei|maj|maja",
    "june|jun|juni|juin|junio|giugno|giu|junho|czerwca|czerwiec",
    "july|jul|juli|juillet|juil|julio|luglio|lug|julho|lipca|lipiec",
    "august|aug|aout|agosto|ago|augustus|augusti|sierpnia|sierpien",
    "september|sept|sep|septembre|septiembre|setiembre|settembre|set|setembro|wrzesnia|wrzesien",
    "october|oct|oktober|okt|octobre|octubre|ottobre|ott|outubro|out|oktober|pazdziernika|pazdziernik",
    "november|nov|novembre|noviembre|novembro|listopada|listopad",
    "december|dec|dezember|dez|desember|decembre|diciembre|dic|dicembre|dezembro|grudnia|grudzien",
)
MONTH_OF: dict[str, int] = {name: at for at, names in enumerate(_MONTHS, start=1) for name in names.split("|")}
MONTH = "(?:" + "|".join(sorted(MONTH_OF, key=len, reverse=True)) + r")\b\.?"
WEEKDAY = (
    r"(?:(?:mon|tues?|wed(?:nes)?|thu(?:rs?)?|fri|sat(?:ur)?|sun)(?:day)?s?|mo|di|mi|do|fr|sa|so|"
    r"montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonntag|"
    r"lundi|mardi|mercredi|jeudi|vendredi|samedi|dimanche|lunes|martes|miercoles|jueves|viernes|sabado|domingo|"
    r"lunedi|martedi|mercoledi|giovedi|venerdi|sabato|domenica|"
    r"maandag|dinsdag|woensdag|donderdag|vrijdag|zaterdag|zondag|segunda|terca|quarta|quinta|sexta|"
    r"mandag|tisdag|tirsdag|onsdag|torsdag|fredag|lordag|sondag|"
    r"poniedzialek|wtorek|sroda|czwartek|piatek|sobota|niedziela)(?:-feira)?\b[.,]? *"
)
DAY_NUMBER = r"(\d{1,2})(?:st|nd|rd|th|er|re|o|e|\.)?"
YEAR = r"(?:[,.]? ?(?:de |del )?'?(20\d\d))?"
TO = (
    r"(?: (?:mittags|nachmittags|abends|morgens|noon|midi))? *"
    r"(?:-|bis(?: zum)?|to|through|thru|until|till|au|al|ate|a|t/m|tot(?: en met)?|till|til|do|e|and|&|y|et|und|u\.|en|og|och) *"
    r"(?:the )?"
)
_ISO = r"(20\d\d)-(\d{1,2})-(\d{1,2})"
_NUMERIC = (
    r"(?<!at )(?<!um )(?<!om )(?<!@ )(?<!kl )(?<!kl\. )(?!1/2 (?:school |day))"
    r"(\d{1,2})([./]|-(?=\d{1,2}-\d))(\d{1,2})(?:(?:[./]|-(?=\d{4})|(?:(?<=-\d)|(?<=-\d\d))-)(\d{4}|\d{2}(?![./]\d))?)?"
    r"(?!\d)(?! ?(?:uhr|uur|[ap]\.?m\b|h\b))"
)
_DMY = rf"{DAY_NUMBER}(?: of| de| d'| del)? ?{MONTH}{YEAR}"
NO_MONTH = r"(?!(?:out|set)\b)"  # before a number these are English: early out 1:00
_MDY = rf"{NO_MONTH}{MONTH} ?{DAY_NUMBER}(?!\d|:\d| ?[ap]\.?m\b){YEAR}"
ONE = rf"(?:{WEEKDAY})?(?:the |den )?(?:{_ISO}|{_NUMERIC}|{_DMY}|{_MDY})"


MARKS = " -–—:|,;.\t•*·"
DAYS_OF_MONTH = re.compile(rf"(?<!\w)({MONTH}) (\d{{1,2}}(?:, ?\d{{1,2}}){{2,}})(?![\d:/.]|, ?\d|,? ?(?:and|&))", re.I)
AND = re.compile(r" *(?:and|&|y|e|et|und|en|og|och)(?!\w)")
WEEKEND_BETWEEN = 3  # days from a Friday to a Monday: `26 February and 1 March` are one span
AND_OF_MONTH = re.compile(
    rf"(?<!\w)(?:(?P<month_first>{MONTH}) )?(?<![\d.:/,] )(?<![\d.:/])(?P<one>\d{{1,2}})(?:st|nd|rd|th|\.)? ?"
    r"(?:and|&|und|et|y|e|en|og|och) "
    rf"(?P<two>\d{{1,2}})(?:st|nd|rd|th|\.)?(?![\d:/])(?(month_first)|(?: of| de)? (?P<month_last>{MONTH}))(?:,? (?P<year>20\d\d))?",
    re.I,
)
WEEKLY = re.compile(
    r"(?:^|\W)(?:every|each|all|jeden|alle|chaque|tous les|cada|todos los|todas as|ogni|elke|varje|hver) (?:other )?"
    + WEEKDAY
)
CLOSES = re.compile(
    r"(?:(?:all )?(?:school|schools|term|classes|lessons|we) )?(?:will )?(?:close[sd]?|ends?|finish(?:es)?|breaks? up)(?!\w)"
)
REOPENS = re.compile(
    r"(?:(?:all )?(?:school|schools|classes|lessons|pupils) )?(?:will )?(?:re-?opens?|resumes?|returns?|re-?starts?|recommences?)(?!\w)"
)
STARTS = r"(?:starts?|begins?|opens?|commences?|first day)"
ENDS = rf"[.,;]? *(?:and )?(?:ends?|finish(?:es)?|closes?|last day)[: ]*(?:on )?{ONE}"
BEGINS_AND_ENDS = re.compile(
    rf"(?P<what>.*?)(?P<begins>{STARTS}[: ]*(?:on )?{ONE})[.,;]? *(?:and )?"
    rf"(?P<ends>(?:ends?|finish(?:es)?|closes?|last day)[: ]*(?:on )?{ONE}.*)"
)
_INCLUSIVE = (
    r"(?:[:,]\s*)?(?:(?:del?|du|vom|from)(?= *[,(]| *$| +(?:ambos|both|beide)))?\s*[,(]?\s*"
    r"(?:both |ambos |beide )?inclusi(?:vement|vamente|ve|f)s?\)?"
)
_COUNTED = r"\(\d+ (?:school )?(?:days?|weeks?)\)"  # `(51 days)` beside a term


def month_in(text: str) -> int | None:
    got = re.search(
        MONTH, re.sub(WEEKDAY, "", text) if not re.search(rf"\d ?(?:de |of )?{MONTH}|{MONTH} ?\d", text) else text
    )
    near = re.search(rf"\d(?:st|nd|rd|th|er|re|o|e|\.)?(?: of| de| d'| del)? ?({MONTH})|({MONTH}) ?\d", text)
    name = (near[1] or near[2]) if near else (got[0] if got else "")
    return MONTH_OF.get(name.rstrip("."))


def full_year(text: str | None) -> int | None:
    return None if not text else int(text) + (2000 if len(text) == 2 else 0)


def without_days(text: str, low: str, at: int, to: int) -> str:
    """A line without its days. Where the small letters have another length than the line, those are kept instead."""
    whole = " ".join(text.split())
    source = whole if len(whole) == len(low) else low
    rest = f"{source[:at]} {source[to:]}"
    rest = re.sub(_COUNTED, " ", re.sub(_INCLUSIVE, " ", rest, flags=re.I), flags=re.I)
    rest = re.sub(r"\((observed|from|until|on)? *\)", " ", rest, flags=re.I)
    rest = re.sub(r"\((?:" + WEEKDAY + r"[-,&/ ]*)*\)", " ", rest, flags=re.I)
    rest = re.sub(
        rf"^(?:(?!(?:sexta|quinta)-feira santa|vendredi saint|lundi de p|lundi de l){WEEKDAY}(?:[-&/](?={WEEKDAY}))?)+(?=[-:|, ]|$)",
        " ",
        rest.strip(),
        flags=re.I,
    )
    small = r"(?:du|vom|from|del|dal|de|van|fra|od|le|el|il|den|on|the|und|and|y|et|e|am|de la)"
    rest = re.sub(rf"^{small}\b(?= *[-:|,;]*( |$))", " ", rest.strip(MARKS), flags=re.I).strip(MARKS)
    rest = re.sub(rf"(?: |^){small}$", " ", rest, flags=re.I).strip(MARKS)
    rest = rest if rest.count("(") == rest.count(")") else rest.replace("(", "").replace(")", "")
    rest = re.sub(r"[:,;](?: *[,;:])+", ",", " ".join(rest.split())).strip(MARKS)
    return f"{rest}." if re.search(r" [ap]\.m$", rest, flags=re.I) else rest
