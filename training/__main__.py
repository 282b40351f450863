"""Command line of the training tools: ``python -m training STAGE``, the stages in their order below."""

from __future__ import annotations

import argparse
from pathlib import Path

from training.families import FAMILIES
from training.places import MODELS, default_work_dir


def main() -> None:
    """Parse the command and run one stage."""
    parser = argparse.ArgumentParser(prog="python -m training", description=__doc__)
    parser.add_argument("--work", type=Path, default=default_work_dir(), help="folder for pictures and checkpoints")
    stages = parser.add_subparsers(dest="stage", required=True)
    stages.add_parser("fetch", help="download the open packages and unpack their pictures")
    stages.add_parser("prepare", help="select and shrink pictures, write the patch source and a contact sheet")
    train = stages.add_parser("train", help="train a network, going on from what there is")
    train.add_argument("--family", choices=list(FAMILIES), required=True)
    train.add_argument("--minutes", type=float, default=30.0, help="time for this run")
    train.add_argument("--seed", type=int, default=1)
    crisp = stages.add_parser("crisp", help="train Kestrel, going on from its checkpoint")
    crisp.add_argument("--factor", type=int, choices=(2, 3, 4), default=4)
    crisp.add_argument("--minutes", type=float, default=170.0, help="time for this run")
    crisp.add_argument("--seed", type=int, default=1)
    crisp_keep = stages.add_parser("crisp-keep", help="keep the training of Kestrel in the repository")
    crisp_keep.add_argument("--factor", type=int, choices=(2, 3, 4), default=4)
    collect = stages.add_parser("collect", help="enlarge pictures of random history in every way, for the judge")
    collect.add_argument("--minutes", type=float, default=60.0)
    collect.add_argument("--seed", type=int, default=1)
    judge = stages.add_parser("judge", help="train the judge on what was collected, and write it as ONNX")
    judge.add_argument("--seed", type=int, default=1)
    judge.add_argument("--out", type=Path, default=MODELS)
    stages.add_parser("judge-keep", help="keep what was collected for the judge in the repository")
    unlisted = stages.add_parser("evaluate-unlisted", help="measure what is suggested for histories by chance")
    unlisted.add_argument("--out", type=Path, default=Path("docs/unlisted.md"))
    unlisted.add_argument("--rounds", type=int, default=3, help="how often each picture is taken")
    crispness = stages.add_parser("evaluate-crispness", help="measure what Crispness does")
    crispness.add_argument("--out", type=Path, default=Path("docs/crispness.md"))
    crispness.add_argument("--factors", type=int, nargs="+", default=[4, 2])
    describe = stages.add_parser("describe", help="describe pictures of known history for the reader network")
    describe.add_argument("--minutes", type=float, default=15.0)
    describe.add_argument("--seed", type=int, default=1)
    reader = stages.add_parser("reader", help="train the network that reads a picture's condition")
    reader.add_argument("--seed", type=int, default=1)
    stages.add_parser("export-reader", help="write it as ONNX").add_argument("--out", type=Path, default=MODELS)
    export = stages.add_parser("export", help="write the checkpoint as ONNX, one file per factor")
    export.add_argument("--family", choices=list(FAMILIES), required=True)
    export.add_argument("--out", type=Path, default=MODELS)
    average = stages.add_parser("average", help="average the checkpoint's weights with those that ship")
    average.add_argument("--family", choices=list(FAMILIES), required=True)
    average.add_argument("--share", type=float, default=0.5, help="of the checkpoint")
    keep = stages.add_parser("keep", help="keep a checkpoint's weights in the repository, not shipped yet")
    keep.add_argument("--family", choices=list(FAMILIES), required=True)
    stages.add_parser("manifest", help="write what must be known to run each network").add_argument(
        "--out", type=Path, default=MODELS
    )
    evaluate_ = stages.add_parser("evaluate", help="measure all upscalers on held-out pictures")
    evaluate_.add_argument("--out", type=Path, default=Path("docs/measured.md"))
    evaluate_.add_argument("--only", nargs="+", default=[], help="keys of upscalers; other rows stay")
    real = stages.add_parser("evaluate-real", help="measure what is suggested on damaged pictures")
    real.add_argument("--out", type=Path, default=Path("docs/real-pictures.md"))
    real.add_argument("--factors", type=int, nargs="+", default=[4, 2, 3, 6])
    letters = stages.add_parser("letters", help="measure small lettering; needs Tesseract")
    letters.add_argument("--out", type=Path, default=Path("docs/small-letters.md"))
    small_faces = stages.add_parser("small-faces", help="measure faces of few pixels")
    small_faces.add_argument("--out", type=Path, default=Path("docs/small-faces.md"))
    raw = stages.add_parser("evaluate-raw", help="measure Tessera on simulated raw files")
    raw.add_argument("--out", type=Path, default=Path("docs/measured-raw.md"))
    raw.add_argument("--factors", type=int, nargs="+", default=[1, 2, 4])
    chains = stages.add_parser("chains", help="measure which passes reach which factor best")
    chains.add_argument("--out", type=Path, default=MODELS / "chains.json")
    faces = stages.add_parser("faces", help="fetch the face finder's networks and write them as ONNX")
    faces.add_argument("--out", type=Path, default=MODELS)
    limits = stages.add_parser("limits", help="measure what stands between here and what was aimed at")
    limits.add_argument("--out", type=Path, default=Path("docs/limits.md"))
    condition = stages.add_parser("condition", help="measure the condition sheet on held-out pictures")
    condition.add_argument("--out", type=Path, default=Path("docs/condition.md"))
    args = parser.parse_args()

    if args.stage == "fetch":
        from training.fetch import fetch_all

        fetch_all(args.work)
    elif args.stage == "prepare":
        from training.prepare import prepare_all

        prepare_all(args.work)
    elif args.stage == "train":
        from training.train import train as train_family

        train_family(args.work, FAMILIES[args.family], minutes=args.minutes, seed=args.seed)
    elif args.stage == "crisp":
        from training.crisp.train import train as train_crisp

        train_crisp(args.work, args.factor, minutes=args.minutes, seed=args.seed)
    elif args.stage == "crisp-keep":
        from training.crisp.keep import keep as keep_crisp

        print(*keep_crisp(args.work, args.factor))
    elif args.stage == "collect":
        from training.unlisted.collect import collect as collect_pictures

        collect_pictures(args.work, args.minutes, args.seed)
    elif args.stage == "judge":
        from training.unlisted import fit as judge_fit

        judge_fit.fit(args.work, args.seed)
        judge_fit.export(args.work, args.out)
    elif args.stage == "judge-keep":
        from training.unlisted.fit import keep as keep_judged

        print(*keep_judged(args.work))
    elif args.stage == "evaluate-unlisted":
        from training.unlisted.measure import measure_unlisted

        measure_unlisted(args.work, args.out, args.rounds)
    elif args.stage == "evaluate-crispness":
        from training.crispness import write_crispness_table

        write_crispness_table(args.work, args.out, tuple(args.factors))
    elif args.stage == "describe":
        from training.estimator import describe as describe_pictures

        describe_pictures(args.work, args.minutes, args.seed)
    elif args.stage == "reader":
        from training.estimator import train_reader

        train_reader(args.work, args.seed)
    elif args.stage == "export-reader":
        from training.estimator import export_reader

        export_reader(args.work, args.out)
    elif args.stage == "export":
        from training.export import export as export_family

        export_family(args.work, FAMILIES[args.family], out_dir=args.out)
    elif args.stage == "average":
        from training.average import average as average_family

        average_family(args.work, FAMILIES[args.family], share=args.share)
    elif args.stage == "keep":
        from training.kept import keep as keep_weights

        print(keep_weights(args.work, FAMILIES[args.family]))
    elif args.stage == "manifest":
        from training.manifest import write_manifest

        write_manifest(args.out)
    elif args.stage == "chains":
        from training.chains import measure_chains

        measure_chains(args.work, args.out)
    elif args.stage == "faces":
        from training.faces import write_face_networks

        write_face_networks(args.work, args.out)
    elif args.stage == "condition":
        from training.condition import write_condition_tables

        write_condition_tables(args.work, args.out)
    elif args.stage == "limits":
        from training.limits import write_limits

        write_limits(args.work, args.out)
    elif args.stage == "evaluate-real":
        from training.real import evaluate_real

        evaluate_real(args.work, args.out, tuple(args.factors))
    elif args.stage == "evaluate-raw":
        from training.evaluate_raw import evaluate_raw

        evaluate_raw(args.work, args.out, tuple(args.factors))
    elif args.stage == "letters":
        from training.small_letters import write_letter_tables

        write_letter_tables(args.work, args.out)
    elif args.stage == "small-faces":
        from training.small_faces import write_face_tables

        write_face_tables(args.work, args.out)
    elif args.stage == "evaluate":
        from training.evaluate import evaluate

        evaluate(args.work, args.out, only=tuple(args.only))


if __name__ == "__main__":
    main()
