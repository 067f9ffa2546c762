"""Entry point: `./paleharbor COMMAND` comes here once everything it needs is installed.

A command that the running server can answer is asked of it, since everything is warm there; any other
loads its own room and nothing else.
"""

import sys


def main() -> None:
    """Runs a command; what went wrong is told in words, on standard error, with exit code 1."""
    from pale_harbor.cli.asking_the_server import asked_of_server

    arguments = sys.argv[1:]
    answer = asked_of_server(arguments)
    if answer is not None:
        sys.stdout.buffer.write(answer.output)
        sys.stdout.buffer.flush()
        sys.stderr.write(answer.complaint)
        sys.exit(answer.code)

    from pale_harbor.cli.rooms import command_of, run

    command = command_of(arguments)
    if command not in ("version", None):
        from pale_harbor.logs import log_file_named, set_up_logs

        set_up_logs(as_server=command == "serve", file=log_file_named() if command == "serve" else None)
    sys.exit(run(arguments))


if __name__ == "__main__":
    main()
