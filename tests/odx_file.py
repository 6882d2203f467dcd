"""A small ODX file, written by hand after ISO 22901-1 (from memory): one ramp module of an invented maker."""

from __future__ import annotations

__all__ = ["COMPARAMS", "ODX", "coded", "pdx"]

import io
import zipfile

_XSI = 'xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance"'


def coded(bits: int, kind: str = "A_UINT32") -> str:
    """A type as it is coded."""
    return f'<DIAG-CODED-TYPE BASE-DATA-TYPE="{kind}" xsi:type="STANDARD-LENGTH-TYPE"><BIT-LENGTH>{bits}</BIT-LENGTH></DIAG-CODED-TYPE>'


def _const(name: str, at: int, bits: int, value: int) -> str:
    return (
        f'<PARAM xsi:type="CODED-CONST"><SHORT-NAME>{name}</SHORT-NAME><BYTE-POSITION>{at}</BYTE-POSITION>'
        f"<CODED-VALUE>{value}</CODED-VALUE>{coded(bits)}</PARAM>"
    )


def _value(name: str, title: str, at: int, dop: str, bit: int = 0) -> str:
    return (
        f'<PARAM xsi:type="VALUE"><SHORT-NAME>{name}</SHORT-NAME><LONG-NAME>{title}</LONG-NAME><BYTE-POSITION>{at}</BYTE-POSITION>'
        f'<BIT-POSITION>{bit}</BIT-POSITION><DOP-REF ID-REF="DOP.{dop}"/></PARAM>'
    )


def _service(name: str, title: str, request: str, answer: str) -> tuple[str, str, str]:
    own = (
        f'<DIAG-SERVICE ID="DS.{name}"><SHORT-NAME>{name}</SHORT-NAME><LONG-NAME>{title}</LONG-NAME>'
        f'<REQUEST-REF ID-REF="RQ.{name}"/><POS-RESPONSE-REFS><POS-RESPONSE-REF ID-REF="PR.{name}"/></POS-RESPONSE-REFS></DIAG-SERVICE>'
    )
    asks = f'<REQUEST ID="RQ.{name}"><SHORT-NAME>RQ_{name}</SHORT-NAME><PARAMS>{request}</PARAMS></REQUEST>'
    says = f'<POS-RESPONSE ID="PR.{name}"><SHORT-NAME>PR_{name}</SHORT-NAME><PARAMS>{answer}</PARAMS></POS-RESPONSE>'
    return own, asks, says


def _dop(name: str, bits: int, method: str, kind: str = "A_UINT32", physical: str = "A_FLOAT64", unit: str = "") -> str:
    ref = f'<UNIT-REF ID-REF="UNIT.{unit}"/>' if unit else ""
    return (
        f'<DATA-OBJECT-PROP ID="DOP.{name}"><SHORT-NAME>{name}</SHORT-NAME><COMPU-METHOD>{method}</COMPU-METHOD>{coded(bits, kind)}'
        f'<PHYSICAL-TYPE BASE-DATA-TYPE="{physical}"/>{ref}</DATA-OBJECT-PROP>'
    )


def _linear(offset: float, factor: float, by: float = 1.0) -> str:
    return (
        "<CATEGORY>LINEAR</CATEGORY><COMPU-INTERNAL-TO-PHYS><COMPU-SCALES><COMPU-SCALE><COMPU-RATIONAL-COEFFS>"
        f"<COMPU-NUMERATOR><V>{offset}</V><V>{factor}</V></COMPU-NUMERATOR><COMPU-DENOMINATOR><V>{by}</V></COMPU-DENOMINATOR>"
        "</COMPU-RATIONAL-COEFFS></COMPU-SCALE></COMPU-SCALES></COMPU-INTERNAL-TO-PHYS>"
    )


def _table(words: dict[int, str]) -> str:
    scales = "".join(
        f"<COMPU-SCALE><LOWER-LIMIT>{raw}</LOWER-LIMIT><UPPER-LIMIT>{raw}</UPPER-LIMIT><COMPU-CONST><VT>{word}</VT></COMPU-CONST></COMPU-SCALE>"
        for raw, word in words.items()
    )
    return f"<CATEGORY>TEXTTABLE</CATEGORY><COMPU-INTERNAL-TO-PHYS><COMPU-SCALES>{scales}</COMPU-SCALES></COMPU-INTERNAL-TO-PHYS>"


_IDENTICAL = "<CATEGORY>IDENTICAL</CATEGORY>"
_DTC = (
    '<DTC ID="DTC.{n}"><SHORT-NAME>dtc_{n}</SHORT-NAME><TROUBLE-CODE>{raw}</TROUBLE-CODE>'
    "<DISPLAY-TROUBLE-CODE>{shown}</DISPLAY-TROUBLE-CODE><TEXT>{text}</TEXT></DTC>"
)
_SERVICES = [
    _service("Read_Supply", "Supply at the ramp module", _const("sid", 0, 8, 0x22) + _const("did", 1, 16, 0xD101),
             _const("sid", 0, 8, 0x62) + _const("did", 1, 16, 0xD101) + _value("volts", "Supply", 3, "volts")),
    _service("Read_State", "State of the ramp", _const("sid", 0, 8, 0x22) + _const("did", 1, 16, 0xD102),
             _const("sid", 0, 8, 0x62) + _const("did", 1, 16, 0xD102) + _value("place", "Ramp", 3, "place", 2)
             + _value("angle", "Ramp angle", 4, "angle") + _value("odd", "Something bent", 6, "bent")),
    _service("Read_Number", "Part number", _const("sid", 0, 8, 0x22) + _const("did", 1, 16, 0xF187),
             _const("sid", 0, 8, 0x62) + _const("did", 1, 16, 0xF187) + _value("number", "Part number", 3, "text")),
    _service("Move_Ramp", "Ramp motor", _const("sid", 0, 8, 0x2F) + _const("did", 1, 16, 0xD150) + _const("how", 3, 8, 3)
             + _value("what", "What", 4, "motor"), _const("sid", 0, 8, 0x6F)),
    _service("Give_Back", "Ramp motor back", _const("sid", 0, 8, 0x2F) + _const("did", 1, 16, 0xD150) + _const("how", 3, 8, 0),
             _const("sid", 0, 8, 0x6F)),
    _service("Teach_Start", "Teach the end stops", _const("sid", 0, 8, 0x31) + _const("sub", 1, 8, 1) + _const("rid", 2, 16, 0x0310),
             _const("sid", 0, 8, 0x71)),
    _service("Teach_Result", "Teach the end stops, result", _const("sid", 0, 8, 0x31) + _const("sub", 1, 8, 3)
             + _const("rid", 2, 16, 0x0310), _const("sid", 0, 8, 0x71) + _value("came", "What came of it", 4, "result")),
    _service("Session", "Another session", _const("sid", 0, 8, 0x10) + _const("kind", 1, 8, 3), _const("sid", 0, 8, 0x50)),
]  # fmt: skip

_COMPARAM_REFS = (
    '<COMPARAM-REFS><COMPARAM-REF ID-REF="CP.ids" DOCREF="own_params" DOCTYPE="COMPARAM-SUBSET"><COMPLEX-VALUE>'
    "<SIMPLE-VALUE>0x7C2</SIMPLE-VALUE><SIMPLE-VALUE>0x7CA</SIMPLE-VALUE></COMPLEX-VALUE></COMPARAM-REF></COMPARAM-REFS>"
)


def odx(ids: bool = True) -> str:
    """The file's text; without ``ids`` it does not say on which CAN identifiers the module is asked."""
    services, requests, responses = ("".join(parts) for parts in zip(*_SERVICES, strict=True))
    dops = "".join([
        _dop("volts", 16, _linear(0, 1, 100), unit="V"),
        _dop("place", 2, _table({0: "stowed", 1: "out", 2: "moving"}), physical="A_UNICODE2STRING"),
        _dop("angle", 16, _linear(0, 1, 10), kind="A_INT32", unit="deg"),
        _dop("bent", 8, _linear(0, 1).replace("LINEAR", "RAT-FUNC").replace("<V>1</V>", "<V>1</V><V>2</V>", 1)),
        _dop("text", 96, _IDENTICAL, kind="A_ASCIISTRING", physical="A_UNICODE2STRING"),
        _dop("motor", 8, _table({0: "stop", 1: "out", 2: "in"}), physical="A_UNICODE2STRING"),
        _dop("result", 8, _table({0: "not done", 1: "taught, all done"}), physical="A_UNICODE2STRING"),
    ])  # fmt: skip
    dtcs = _DTC.format(n=1, raw=0x9A2113, shown="B1A21-13", text="Ramp motor circuit open") + _DTC.format(
        n=2, raw=0xC15587, shown="17", text="No word from the gateway"
    )
    return (
        f'<?xml version="1.0" encoding="UTF-8"?><ODX MODEL-VERSION="2.2.0" {_XSI}><DIAG-LAYER-CONTAINER ID="DLC.own">'
        "<SHORT-NAME>own</SHORT-NAME><BASE-VARIANTS>"
        '<BASE-VARIANT ID="BV.ramp"><SHORT-NAME>RampModule</SHORT-NAME><LONG-NAME>Ramp module</LONG-NAME>'
        f'<DIAG-DATA-DICTIONARY-SPEC><DTC-DOPS><DTC-DOP ID="DOP.dtc"><SHORT-NAME>dtc</SHORT-NAME>{coded(24)}'
        f'<PHYSICAL-TYPE BASE-DATA-TYPE="A_UINT32"/><COMPU-METHOD>{_IDENTICAL}</COMPU-METHOD><DTCS>{dtcs}</DTCS></DTC-DOP></DTC-DOPS>'
        f"<DATA-OBJECT-PROPS>{dops}</DATA-OBJECT-PROPS><UNIT-SPEC><UNITS>"
        '<UNIT ID="UNIT.V"><SHORT-NAME>V</SHORT-NAME><DISPLAY-NAME>V</DISPLAY-NAME></UNIT>'
        '<UNIT ID="UNIT.deg"><SHORT-NAME>deg</SHORT-NAME><DISPLAY-NAME>°</DISPLAY-NAME></UNIT></UNITS></UNIT-SPEC>'
        "</DIAG-DATA-DICTIONARY-SPEC>"
        f"<DIAG-COMMS>{services}</DIAG-COMMS><REQUESTS>{requests}</REQUESTS><POS-RESPONSES>{responses}</POS-RESPONSES>"
        f"{_COMPARAM_REFS if ids else ''}</BASE-VARIANT></BASE-VARIANTS></DIAG-LAYER-CONTAINER></ODX>"
    )


ODX = odx()
COMPARAMS = (
    f'<?xml version="1.0" encoding="UTF-8"?><ODX MODEL-VERSION="2.2.0" {_XSI}><COMPARAM-SUBSET ID="CPS.own" CATEGORY="TRANSPORT">'
    "<SHORT-NAME>own_params</SHORT-NAME><COMPLEX-COMPARAMS>"
    '<COMPLEX-COMPARAM ID="CP.ids" PARAM-CLASS="UNIQUE_ID" CPTYPE="STANDARD" CPUSAGE="ECU-COMM" ALLOW-MULTIPLE-VALUES="true">'
    "<SHORT-NAME>CP_UniqueRespIdTable</SHORT-NAME>"
    '<COMPARAM ID="CP.asks" PARAM-CLASS="UNIQUE_ID" CPTYPE="STANDARD" CPUSAGE="ECU-COMM"><SHORT-NAME>CP_CanPhysReqId</SHORT-NAME>'
    '<PHYSICAL-DEFAULT-VALUE>0</PHYSICAL-DEFAULT-VALUE><DATA-OBJECT-PROP-REF ID-REF="DOP.id"/></COMPARAM>'
    '<COMPARAM ID="CP.answers" PARAM-CLASS="UNIQUE_ID" CPTYPE="STANDARD" CPUSAGE="ECU-COMM"><SHORT-NAME>CP_CanRespUSDTId</SHORT-NAME>'
    '<PHYSICAL-DEFAULT-VALUE>0</PHYSICAL-DEFAULT-VALUE><DATA-OBJECT-PROP-REF ID-REF="DOP.id"/></COMPARAM>'
    "</COMPLEX-COMPARAM></COMPLEX-COMPARAMS><DATA-OBJECT-PROPS>"
    f'<DATA-OBJECT-PROP ID="DOP.id"><SHORT-NAME>id</SHORT-NAME><COMPU-METHOD>{_IDENTICAL}</COMPU-METHOD>{coded(32)}'
    '<PHYSICAL-TYPE BASE-DATA-TYPE="A_UINT32"/></DATA-OBJECT-PROP></DATA-OBJECT-PROPS></COMPARAM-SUBSET></ODX>'
)


def pdx(text: str = ODX) -> bytes:
    """Both files in a package, with its index."""
    index = '<?xml version="1.0" encoding="UTF-8"?><CATALOG F-DTD-VERSION="ODX-2.2.0"><SHORT-NAME>own</SHORT-NAME></CATALOG>'
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as packed:
        packed.writestr("index.xml", index)
        packed.writestr("own.odx-d", text)
        packed.writestr("own.odx-cs", COMPARAMS)
    return made.getvalue()
