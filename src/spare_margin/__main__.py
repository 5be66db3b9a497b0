"""The command, as it is started."""

import gc


def main() -> None:
    """Load the program, then do what the command line says.

    Hundreds of modules leave nothing behind that could be collected, and looking for it again and again
    takes a tenth of the start: they are loaded without, and never looked through later.
    """
    gc.disable()
    from spare_margin.cli import main as command  # noqa: PLC0415

    gc.freeze()
    # A request makes thousands of values and keeps few: looking after every 700 finds next to nothing.
    gc.set_threshold(10_000, 10, 10)
    gc.enable()
    command()


if __name__ == "__main__":
    main()
