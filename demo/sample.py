"""The document that newcomers try on, made anew: `python -m demo.sample`."""

from pathlib import Path

from demo.files import make_sample

SAMPLE = Path(__file__).resolve().parent.parent / "web" / "satchels" / "sample" / "Reed bed.pdf"

if __name__ == "__main__":
    make_sample(SAMPLE)
    print(f"{SAMPLE.stat().st_size:,} bytes")
