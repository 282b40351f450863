"""Command line of the training tools: ``python -m training fetch | prepare | train | export | evaluate``."""

from __future__ import annotations

import argparse
from pathlib import Path

from training.places import default_work_dir


def main() -> None:
    """Parse the command and run one stage."""
    parser = argparse.ArgumentParser(prog="python -m training", description=__doc__)
    parser.add_argument(
        "--work", type=Path, default=default_work_dir(), help="folder for pictures and checkpoints"
    )
    stages = parser.add_subparsers(dest="stage", required=True)
    stages.add_parser("fetch", help="download the open packages and unpack their pictures")
    stages.add_parser(
        "prepare", help="select and shrink pictures, write the patch source and a contact sheet"
    )
    train = stages.add_parser("train", help="train a network, resuming from its checkpoint")
    train.add_argument("--grade", choices=["standard", "quick"], default="standard")
    train.add_argument(
        "--minutes", type=float, default=100.0, help="total training time, earlier runs included"
    )
    train.add_argument("--seed", type=int, default=1)
    export = stages.add_parser("export", help="write the checkpoint as ONNX, one file per factor")
    export.add_argument("--grade", choices=["standard", "quick"], default="standard")
    export.add_argument("--out", type=Path, default=Path("src/wamplex/models"))
    evaluate_ = stages.add_parser("evaluate", help="measure the shipped networks on held-out pictures")
    evaluate_.add_argument("--models", type=Path, default=Path("src/wamplex/models"))
    args = parser.parse_args()

    if args.stage == "fetch":
        from training.fetch import fetch_all

        fetch_all(args.work)
    elif args.stage == "prepare":
        from training.prepare import prepare_all

        prepare_all(args.work)
    elif args.stage == "train":
        from training.train import train_vellum

        train_vellum(args.work, grade=args.grade, minutes=args.minutes, seed=args.seed)
    elif args.stage == "export":
        from training.export import export_vellum

        export_vellum(args.work, grade=args.grade, out_dir=args.out)
    elif args.stage == "evaluate":
        from training.evaluate import evaluate

        evaluate(args.models)


if __name__ == "__main__":
    main()
