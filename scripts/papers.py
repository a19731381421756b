"""Reads the papers of a certificate with tools that did not write them.

papers.py CERTIFICATE.pdf JOB.json RESULTS.xlsx RESULTS.csv: exits with words when the document does not
declare PDF/A-3B, misses a font, an output intent or an attachment, when the job inside it is not the
job file, or when the spreadsheet and the table differ.
"""

import csv
import sys

import openpyxl
import pikepdf

pdf_path, job_path, xlsx_path, csv_path = sys.argv[1:5]

with pikepdf.open(pdf_path) as pdf:
    with pdf.open_metadata() as metadata:
        assert metadata.pdfa_status == "3B", f"declares {metadata.pdfa_status!r}"
    assert not pdf.is_encrypted
    intents = pdf.Root.OutputIntents
    assert intents[0].S == "/GTS_PDFA1", "no PDF/A output intent"
    fonts = 0
    for page in pdf.pages:
        assert "/JavaScript" not in page, "a script"
        for font in page.Resources.get("/Font", {}).values():
            inner = font.DescendantFonts[0] if "/DescendantFonts" in font else font
            descriptor = inner.FontDescriptor
            assert any(key in descriptor for key in ("/FontFile", "/FontFile2", "/FontFile3")), "a font is not embedded"
            fonts += 1
    assert fonts > 0
    files = {name: spec for name, spec in pdf.attachments.items()}
    job_name = next(name for name in files if name.endswith(".job.json"))
    assert set(files) == {job_name, "signature.txt"}, sorted(files)
    associated = {str(spec.F) for spec in pdf.Root.AF}
    assert associated == set(files), "PDF/A-3 wants every attachment associated"
    with open(job_path, "rb") as file:
        assert files[job_name].get_file().read_bytes() == file.read(), "the job inside is not the job file"

sheet = openpyxl.load_workbook(xlsx_path)["Results"]
with open(csv_path, newline="", encoding="utf-8") as file:
    table = list(csv.reader(file))
rows = [[("" if cell is None else cell) for cell in row] for row in sheet.iter_rows(values_only=True)]
assert len(rows) == len(table), f"{len(rows)} rows beside {len(table)}"
for line, (from_sheet, from_table) in enumerate(zip(rows, table)):
    for ours, theirs in zip(from_sheet, from_table):
        same = float(theirs) == ours if isinstance(ours, (int, float)) else str(ours) == theirs.lstrip("'")
        assert same, f"row {line}: {ours!r} beside {theirs!r}"
print(f"{len(files)} attachments, {fonts} fonts, {len(rows)} rows")
