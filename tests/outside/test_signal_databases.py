"""Databases of every format that is read, against what cantools makes of the same text; and J1939's groups.

Source: cantools 45 writes and reads DBC, KCD and SYM; the ARXML is written here by hand after AUTOSAR's system template (from memory, as
far as cantools reads it). J1939 identifiers: SAE J1939-21, from memory: 18FEF100 is group FEF1 (65265, cruise control and vehicle speed),
18EAFF00 group EA00 (59904, request, sent to all).
"""

from __future__ import annotations

import cantools.database
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.bus.database import Known, database_from, group_of
from pondrel.core.bus.decode import Short, decoded_lines
from pondrel.core.bus.formats.text import from_fields
from pondrel.core.bus.frames import EXTENDED, FD, joined

from ..databases import by_cantools, random_database, random_frames


def rows_of(frames, *databases, names=("1",)):
    short = Short()
    return list(decoded_lines(frames, names, Known(databases), short)), short


@pytest.mark.parametrize("kind", ["dbc", "kcd"])
@pytest.mark.parametrize("seed", range(4))
def test_a_database_by_lot_is_read_and_decoded_from_its_text(kind, seed):
    made = cantools.database.can.Database(messages=list(random_database(seed, 12, plain=True).messages))
    text = made.as_dbc_string() if kind == "dbc" else made.as_kcd_string()
    own = database_from(text.encode(), f"lot.{kind}")
    reference = cantools.database.load_string(text, kind, strict=False)
    by_id = {message.frame_id: message for message in reference.messages}
    frames = random_frames(own, seed, 400)
    rows, _ = rows_of(frames, own)
    begins, told = frames.begins, {}
    for row in rows:
        told.setdefault(row[0], []).append(row)
    compared = 0
    for place in range(len(frames)):
        wanted = by_cantools(by_id[int(frames.id[place])], frames.bytes_of(place, begins))
        if wanted is None:
            continue
        mine = told.get(frames.time[place], [])
        told_here = [(row[4], str(row[5]), str(row[6]), row[7]) for row in mine]  # as text: a NaN is like no other
        assert told_here == [(one, str(raw), str(value), text) for one, raw, value, text in wanted]
        compared += len(mine)
    assert compared > 300


SYM = """FormatVersion=6.0 // Do not edit this line!
Title="made up"

{ENUMS}
Enum=Light(0="dark", 1="lit")

{SIGNALS}
Sig=Watts unsigned 16 /f:0.5 /o:-10 /u:W
Sig=Lamp unsigned 1 /e:Light

{SENDRECEIVE}

[Board]
ID=12Ah
Len=4
Sig=Watts 0
Sig=Lamp 16
"""


def test_a_sym_file_is_read():
    own = database_from(SYM.encode(), "board.sym")
    rows, _ = rows_of(from_fields(1.0, 0x12A, 0, 0, bytes([0x64, 0, 1, 0])), own)
    assert [row[3:] for row in rows] == [("Board", "Watts", 100, 40.0, "", "W"), ("Board", "Lamp", 1, 1, "lit", "")]


def arxml():
    """One classical frame and one of 64 bytes, in the elements that AUTOSAR's system template has for them."""

    def frame(name, identity, length, flexible, signals):
        triggering = (
            "<CAN-FRAME-RX-BEHAVIOR>CAN-FD</CAN-FRAME-RX-BEHAVIOR><CAN-FRAME-TX-BEHAVIOR>CAN-FD</CAN-FRAME-TX-BEHAVIOR>" if flexible else ""
        )
        mapped = "".join(
            f"<I-SIGNAL-TO-I-PDU-MAPPING><SHORT-NAME>{own}Mapping</SHORT-NAME><I-SIGNAL-REF DEST='I-SIGNAL'>/P/{own}</I-SIGNAL-REF>"
            f"<PACKING-BYTE-ORDER>{order}</PACKING-BYTE-ORDER><START-POSITION>{start}</START-POSITION></I-SIGNAL-TO-I-PDU-MAPPING>"
            for own, start, width, order in signals
        )
        signal = "".join(
            f"<I-SIGNAL><SHORT-NAME>{own}</SHORT-NAME><LENGTH>{width}</LENGTH>"
            f"<SYSTEM-SIGNAL-REF DEST='SYSTEM-SIGNAL'>/P/{own}Sys</SYSTEM-SIGNAL-REF>"
            f"</I-SIGNAL><SYSTEM-SIGNAL><SHORT-NAME>{own}Sys</SHORT-NAME></SYSTEM-SIGNAL>"
            for own, _, width, _ in signals
        )
        parts = (
            f"<CAN-FRAME><SHORT-NAME>{name}</SHORT-NAME><FRAME-LENGTH>{length}</FRAME-LENGTH><PDU-TO-FRAME-MAPPINGS><PDU-TO-FRAME-MAPPING>"
            f"<SHORT-NAME>{name}Map</SHORT-NAME><PDU-REF DEST='I-SIGNAL-I-PDU'>/P/{name}Pdu</PDU-REF><START-POSITION>0</START-POSITION>"
            f"</PDU-TO-FRAME-MAPPING></PDU-TO-FRAME-MAPPINGS></CAN-FRAME>"
            f"<I-SIGNAL-I-PDU><SHORT-NAME>{name}Pdu</SHORT-NAME><LENGTH>{length}</LENGTH><I-SIGNAL-TO-PDU-MAPPINGS>{mapped}"
            f"</I-SIGNAL-TO-PDU-MAPPINGS></I-SIGNAL-I-PDU>{signal}"
        )
        trigger = (
            f"<CAN-FRAME-TRIGGERING><SHORT-NAME>{name}Trigger</SHORT-NAME><FRAME-REF DEST='CAN-FRAME'>/P/{name}</FRAME-REF>"
            f"<CAN-ADDRESSING-MODE>STANDARD</CAN-ADDRESSING-MODE>{triggering}<IDENTIFIER>{identity}</IDENTIFIER></CAN-FRAME-TRIGGERING>"
        )
        return parts, trigger

    made = [
        frame(
            "Small", 0x123, 8, False, [("Speed", 0, 16, "MOST-SIGNIFICANT-BYTE-LAST"), ("Torque", 23, 12, "MOST-SIGNIFICANT-BYTE-FIRST")]
        ),
        frame("Large", 0x124, 64, True, [("Cell", 500, 12, "MOST-SIGNIFICANT-BYTE-LAST"), ("Far", 135, 9, "MOST-SIGNIFICANT-BYTE-FIRST")]),
    ]
    cluster = (
        "<CAN-CLUSTER><SHORT-NAME>Body</SHORT-NAME><CAN-CLUSTER-VARIANTS><CAN-CLUSTER-CONDITIONAL>"
        "<BAUDRATE>500000</BAUDRATE><PHYSICAL-CHANNELS>"
        "<CAN-PHYSICAL-CHANNEL><SHORT-NAME>Main</SHORT-NAME>"
        f"<FRAME-TRIGGERINGS>{''.join(trigger for _, trigger in made)}</FRAME-TRIGGERINGS>"
        "</CAN-PHYSICAL-CHANNEL></PHYSICAL-CHANNELS></CAN-CLUSTER-CONDITIONAL></CAN-CLUSTER-VARIANTS></CAN-CLUSTER>"
    )
    return (
        "<?xml version='1.0' encoding='UTF-8'?><AUTOSAR xmlns='http://autosar.org/schema/r4.0'><AR-PACKAGES><AR-PACKAGE><SHORT-NAME>P</SHORT-NAME>"
        f"<ELEMENTS>{cluster}{''.join(parts for parts, _ in made)}</ELEMENTS></AR-PACKAGE></AR-PACKAGES></AUTOSAR>"
    )


def test_arxml_with_a_frame_of_64_bytes():
    text = arxml()
    own = database_from(text.encode(), "body.arxml")
    assert own.bit_rates == (500_000,)
    reference = cantools.database.load_string(text, "arxml")
    data = bytes((37 * k + 11) % 256 for k in range(64))
    rows, short = rows_of(joined([from_fields(1.0, 0x123, 0, 0, data[:8]), from_fields(2.0, 0x124, FD, 0, data)]), own)
    wanted = {**reference.decode_message(0x123, data[:8]), **reference.decode_message(0x124, data)}
    assert {row[4]: row[6] for row in rows} == wanted and len(wanted) == 4 and short.notes == ()


J1939 = """VERSION ""
NS_ :
BS_:
BU_: Engine
BO_ 2566844672 Speeds: 8 Engine
 SG_ Road : 8|16@1+ (0.00390625,0) [0|250] "km/h" Engine
BO_ 2565537536 Request: 3 Engine
 SG_ Group : 0|24@1+ (1,0) [0|0] "" Engine
BA_DEF_ BO_ "VFrameFormat" ENUM "StandardCAN","ExtendedCAN","reserved","J1939PG";
BA_DEF_ "ProtocolType" STRING;
BA_DEF_DEF_ "VFrameFormat" "StandardCAN";
BA_DEF_DEF_ "ProtocolType" "";
BA_ "ProtocolType" "J1939";
BA_ "VFrameFormat" BO_ 2566844672 3;
BA_ "VFrameFormat" BO_ 2565537536 3;
"""


def test_a_j1939_group_is_known_whoever_sends_it():
    own = database_from(J1939.encode(), "lorry.dbc")
    frames = joined(
        [from_fields(float(k), identity, EXTENDED, 0, bytes([0, 0, 0x50, 0, 0, 0, 0, 0])[:size]) for k, (identity, size) in
         enumerate([(0x18FEF100, 8), (0x0CFEF117, 8), (0x18EAFF00, 3), (0x18EA2142, 3), (0x18FEF200, 8)])]
    )  # fmt: skip
    rows, short = rows_of(frames, own)
    assert [(row[0], row[3], row[6]) for row in rows] == [
        (0.0, "Speeds", 80.0), (1.0, "Speeds", 80.0), (2.0, "Request", 0x500000), (3.0, "Request", 0x500000),
    ]  # fmt: skip
    assert short.unknown == 1
    assert group_of(0x18FEF100) == 0xFEF1 and group_of(0x18EAFF00) == 0xEA00


ONE = 'VERSION ""\nNS_ :\nBS_:\nBU_: A\nBO_ 291 First: 8 A\n SG_ X : 0|8@1+ (1,0) [0|0] "" A\n'
TWO = 'VERSION ""\nNS_ :\nBS_:\nBU_: A\nBO_ 291 Second: 8 A\n SG_ Y : 8|8@1+ (2,0) [0|0] "°C" A\n'


def test_several_databases_are_matched_by_channel_and_clashes_are_told():
    one, two = database_from(ONE.encode(), "one.dbc"), database_from(TWO.encode("cp1252"), "two.dbc", "body")
    frames = joined([from_fields(1.0, 291, 0, 0, bytes(range(8))), from_fields(2.0, 291, 0, 1, bytes(range(8)))])
    rows, _ = rows_of(frames, one, two, names=("power", "body"))
    assert [(row[1], row[3], row[6], row[8]) for row in rows] == [("power", "First", 0, ""), ("body", "Second", 2, "°C")]
    both = Known([one, database_from(TWO.encode(), "two.dbc")])
    assert both.notes == ("one.dbc and two.dbc both know the identifier 123: that of one.dbc is taken.",)
    twice = database_from((ONE + 'BO_ 291 Again: 8 A\n SG_ Z : 0|8@1+ (1,0) [0|0] "" A\n').encode(), "twice.dbc")
    assert any("same identifier 123" in note for note in twice.notes)


def test_signals_that_share_bits_are_read_where_they_stand_and_those_of_one_name_as_cantools_does_it():
    data = bytes([0x12, 0x34, 0x56, 0x78, 0x9A, 0xBC, 0xDE, 0xF0])
    text = ONE + ' SG_ Z : 4|8@1+ (1,0) [0|0] "" A\n SG_ B : 23|8@0+ (1,0) [0|0] "" A\n'
    own = database_from(text.encode(), "overlap.dbc")
    assert any("overlapping" in note for note in own.notes)
    with pytest.raises(cantools.database.errors.DecodeError):
        cantools.database.load_string(text, "dbc", strict=False).decode_message(291, data)
    rows, short = rows_of(from_fields(1.0, 291, 0, 0, data), own)
    assert {row[4]: row[6] for row in rows} == {"X": 0x12, "Z": 0x41, "B": 0x56}
    assert any("share bits" in note for note in short.notes)
    text = ONE + ' SG_ X : 16|8@1+ (1,0) [0|0] "" A\n'
    rows, short = rows_of(from_fields(1.0, 291, 0, 0, data), database_from(text.encode(), "namesakes.dbc"))
    assert {row[4]: row[6] for row in rows} == cantools.database.load_string(text, "dbc", strict=False).decode_message(291, data)
    assert any("signals of one name" in note for note in short.notes)


@pytest.mark.parametrize(
    ("text", "name", "says"),
    [
        (b"", "a.dbc", "cannot be read as DBC"),
        (b'VERSION ""', "a.dbc", "holds no messages"),
        (b"BO_ x", "a.dbc", "cannot be read as DBC"),
        (b"<xml", "a.kcd", "cannot be read as KCD"),
        (b"\x00\xff\xfe", "a.sym", "cannot be read as SYM"),
        (b"<AUTOSAR/>", "a.arxml", "cannot be read as ARXML"),
        (b"x", "a.txt", "DBC, ARXML, KCD or SYM"),
    ],
)
def test_what_is_no_database_is_refused_in_a_sentence(text, name, says):
    with pytest.raises(ReadingError, match=says) as caught:
        database_from(text, name)
    assert "\n" not in str(caught.value)
