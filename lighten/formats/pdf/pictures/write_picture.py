"""The stream of a picture, as ISO 32000-1, 8.9.5 has it."""

import pikepdf

from lighten.pictures.coding.coded import CodedPicture, Coding

__all__ = ["PLAIN_SPACES", "colour_object", "write_data", "write_picture"]

PLAIN_SPACES = {
    1: pikepdf.Name.DeviceGray,
    3: pikepdf.Name.DeviceRGB,
    4: pikepdf.Name.DeviceCMYK,
}


def write_picture(stream: pikepdf.Stream, coded: CodedPicture, base: pikepdf.Object | None) -> None:
    """Return the entries of the new stream, and its data. base: its colour space; None for plain
    ones.
    """
    stream.Width, stream.Height = coded.width_px, coded.height_px
    stream.BitsPerComponent = coded.bits
    if not bool(stream.get("/ImageMask", False)):
        stream.ColorSpace = colour_object(base, coded.colours, coded)
    write_data(stream, coded)


def write_data(stream: pikepdf.Stream, coded: CodedPicture) -> None:
    """Write the data with its decode parameters."""
    match coded.coding:
        case Coding.JPEG:
            stream.write(coded.data, filter=pikepdf.Name.DCTDecode)
        case Coding.JPEG_2000:
            stream.write(coded.data, filter=pikepdf.Name.JPXDecode)
        case Coding.GROUP_4:
            parameters = pikepdf.Dictionary(
                K=-1, Columns=coded.width_px, Rows=coded.height_px, EndOfBlock=True
            )
            stream.write(coded.data, filter=pikepdf.Name.CCITTFaxDecode, decode_parms=parameters)
        case Coding.JBIG2:
            stream.write(coded.data, filter=pikepdf.Name.JBIG2Decode)
        case Coding.FLATE if coded.predictor == 1:
            stream.write(coded.data, filter=pikepdf.Name.FlateDecode)
        case Coding.FLATE:
            parameters = pikepdf.Dictionary(
                Predictor=coded.predictor,
                Colors=1 if coded.palette is not None else coded.colours,
                BitsPerComponent=coded.bits,
                Columns=coded.width_px,
            )
            stream.write(coded.data, filter=pikepdf.Name.FlateDecode, decode_parms=parameters)
        case _:
            raise AssertionError(f"{coded.coding} is for picture files")


def colour_object(
    base: pikepdf.Object | None, base_colours: int, coded: CodedPicture
) -> pikepdf.Object:
    """Return the colour space of the new picture: its own, or DeviceGray."""
    if base is None or base_colours != coded.colours:
        base = PLAIN_SPACES[coded.colours]
    if coded.palette is None:
        return base
    highest = len(coded.palette) // coded.colours - 1
    return pikepdf.Array([pikepdf.Name.Indexed, base, highest, pikepdf.String(coded.palette)])
