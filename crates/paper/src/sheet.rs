//! Flowing content down pages: headings, labelled fields, paragraphs, tables with repeated heads.

use crate::font::{Face, Faces};
use crate::page::{FOOT, Ink, MARGIN, Page, PageMark, Weight};

const BODY: f32 = 8.6;
const LABEL: f32 = 6.6;

/// A column of a table: its head, its share of the width, and how its cells stand.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Column {
    /// Head.
    pub head: &'static str,
    /// Share of the width.
    pub share: f32,
    /// Figures stand to the right.
    pub figures: bool,
}

/// A text column.
pub(crate) const fn words(head: &'static str, share: f32) -> Column {
    Column { head, share, figures: false }
}

/// A column of figures.
pub(crate) const fn figures(head: &'static str, share: f32) -> Column {
    Column { head, share, figures: true }
}

/// A stack of pages being filled.
pub(crate) struct PrintedSheet<'a> {
    faces: &'a Faces,
    /// Pages so far.
    pub pages: Vec<Page>,
    y: f32,
    section: String,
}

impl<'a> PrintedSheet<'a> {
    /// An empty stack.
    pub(crate) const fn new(faces: &'a Faces) -> Self {
        Self { faces, pages: Vec::new(), y: 0.0, section: String::new() }
    }

    fn page(&mut self) -> &mut Page {
        if self.pages.is_empty() {
            self.pages.push(Page::blank(false));
            self.y = MARGIN;
        }
        let last = self.pages.len() - 1;
        &mut self.pages[last]
    }

    fn width(&mut self) -> f32 {
        self.page().width - 2.0 * MARGIN
    }

    fn room(&mut self) -> f32 {
        let y = self.y;
        self.page().height - MARGIN - FOOT - y
    }

    /// Begins a page with the name of its section.
    pub(crate) fn new_page(&mut self, landscape: bool, section: &str) {
        self.pages.push(Page::blank(landscape));
        self.y = MARGIN;
        section.clone_into(&mut self.section);
        let right = self.page().width - MARGIN;
        let y = self.y + 15.0;
        self.page().text((MARGIN, y), 15.0, Weight::Bold, Ink::Black, section);
        self.page().rule((MARGIN, y + 7.0), (right, y + 7.0), 1.2, Ink::Black);
        self.y = y + 18.0;
    }

    fn ensure(&mut self, height: f32) {
        if self.pages.is_empty() || self.room() < height {
            let landscape = self.pages.last().is_some_and(|page| page.width > page.height);
            let section = if self.pages.is_empty() || self.section.is_empty() {
                self.section.clone()
            } else {
                format!("{} (continued)", self.section.trim_end_matches(" (continued)"))
            };
            self.new_page(landscape, &section);
        }
    }

    /// A heading inside a page.
    pub(crate) fn heading(&mut self, text: &str) {
        self.ensure(40.0);
        self.y += 12.0;
        let (y, right) = (self.y, self.page().width - MARGIN);
        self.page().text((MARGIN, y), 10.0, Weight::Bold, Ink::Black, text);
        self.page().rule((MARGIN, y + 4.0), (right, y + 4.0), 0.5, Ink::Rule);
        self.y += 8.0;
    }

    /// A paragraph.
    pub(crate) fn paragraph(&mut self, text: &str) {
        let width = self.width();
        let lines = self.faces.regular.wrap(text, BODY, width);
        for line in lines {
            self.ensure(12.0);
            self.y += 11.5;
            let y = self.y;
            self.page().text((MARGIN, y), BODY, Weight::Regular, Ink::Black, line);
        }
        self.y += 3.0;
    }

    /// Labelled fields, so many a row.
    pub(crate) fn fields(&mut self, columns: usize, fields: &[(&str, String)]) {
        let width = self.width();
        let each = width / columns as f32;
        for row in fields.chunks(columns) {
            let wrapped: Vec<Vec<String>> = row
                .iter()
                .map(|(_, value)| {
                    let shown = if value.trim().is_empty() { "—" } else { value.as_str() };
                    self.faces.regular.wrap(shown, BODY, each - 8.0)
                })
                .collect();
            let lines = wrapped.iter().map(Vec::len).max().unwrap_or(1);
            // A very long answer flows over pages rather than off the foot of one.
            let fits = (self.pages.last().map_or(700.0, |page| page.height) - 2.0 * MARGIN - FOOT - 60.0) / 11.0;
            if lines as f32 > fits {
                for (label, value) in row {
                    self.heading(label);
                    self.paragraph(value);
                }
                continue;
            }
            self.ensure(12.0 + lines as f32 * 11.0 + 4.0);
            let top = self.y;
            for (index, ((label, _), text)) in row.iter().zip(&wrapped).enumerate() {
                let x = MARGIN + index as f32 * each;
                self.page().text((x, top + 9.0), LABEL, Weight::Regular, Ink::Grey, *label);
                for (line_index, line) in text.iter().enumerate() {
                    let y = top + 20.0 + line_index as f32 * 11.0;
                    self.page().text((x, y), BODY, Weight::Regular, Ink::Black, line.clone());
                }
            }
            self.y = top + 14.0 + lines as f32 * 11.0;
            let (y, right) = (self.y, MARGIN + width);
            self.page().rule((MARGIN, y), (right, y), 0.3, Ink::Rule);
        }
        self.y += 2.0;
    }

    /// A square code at the left with lines of text beside it.
    pub(crate) fn beside_code(&mut self, squares: &[(u16, u16)], lines: &[String]) {
        const SIDE: f32 = 92.0;
        let across = squares.iter().map(|(x, _)| *x).max().map_or(1.0, |most| f32::from(most) + 1.0);
        let module = SIDE / across;
        self.ensure(SIDE + 12.0);
        let top = self.y + 6.0;
        let corners = squares.iter().map(|(x, y)| (MARGIN + f32::from(*x) * module, top + f32::from(*y) * module));
        // A hair wider than its field, so that no reader sees seams.
        let mark = PageMark::Squares { corners: corners.collect(), side: module + 0.02, ink: Ink::Black };
        self.page().marks.push(mark);
        for (index, line) in lines.iter().enumerate() {
            let y = top + 14.0 + index as f32 * 12.5;
            let weight = if index == 0 { Weight::Bold } else { Weight::Regular };
            self.page().text((MARGIN + SIDE + 14.0, y), BODY, weight, Ink::Black, line.clone());
        }
        self.y = top + SIDE + 8.0;
        let (y, right) = (self.y, self.page().width - MARGIN);
        self.page().rule((MARGIN, y), (right, y), 0.3, Ink::Rule);
    }

    /// A table of signatures: names in the second column, and what was drawn over them.
    pub(crate) fn signatures(
        &mut self,
        columns: &[Column],
        rows: &[Vec<String>],
        drawn: &[&[proof_work::certificate::Stroke]],
        size: f32,
    ) {
        use proof_work::certificate::{SIGNATURE_HEIGHT, SIGNATURE_WIDTH};
        const ROOM: f32 = 21.0;
        let width = self.width();
        let total: f32 = columns.iter().map(|column| column.share).sum();
        let before = columns[0].share / total * width;
        let (widths, heads, height) = self.measured(columns, size);
        self.ensure(height + ROOM + 16.0);
        self.table_head(columns, &widths, &heads, size, height);
        for (index, row) in rows.iter().enumerate() {
            let strokes = drawn.get(index).copied().unwrap_or_default();
            if !strokes.is_empty() {
                self.ensure(ROOM + 16.0);
                let (x, y) = (MARGIN + before, self.y + 1.0);
                let scale = (ROOM / f32::from(SIGNATURE_HEIGHT)).min(130.0 / f32::from(SIGNATURE_WIDTH));
                let at = |&(px, py): &(u16, u16)| (x + f32::from(px) * scale, y + f32::from(py) * scale);
                let strokes = strokes.iter().map(|stroke| stroke.iter().map(at).collect()).collect();
                self.page().marks.push(PageMark::Strokes { strokes, width: 0.9, ink: Ink::Black });
                self.y += ROOM;
            }
            self.table_part(columns, std::slice::from_ref(row), size, false);
        }
    }

    /// A table; its head is repeated on every page.
    pub(crate) fn table(&mut self, columns: &[Column], rows: &[Vec<String>], size: f32) {
        self.table_part(columns, rows, size, true);
    }

    /// Widths of columns, their heads as wrapped, and the height of the head.
    fn measured(&mut self, columns: &[Column], size: f32) -> (Vec<f32>, Vec<Vec<String>>, f32) {
        let width = self.width();
        let total: f32 = columns.iter().map(|column| column.share).sum();
        let widths: Vec<f32> = columns.iter().map(|column| column.share / total * width).collect();
        let heads: Vec<Vec<String>> = columns
            .iter()
            .zip(&widths)
            .map(|(column, width)| self.faces.bold.wrap(column.head, size - 0.6, width - 8.0))
            .collect();
        let lines = heads.iter().map(Vec::len).max().unwrap_or(1) as f32;
        (widths, heads, lines * (size + 2.4) + 5.0)
    }

    fn table_part(&mut self, columns: &[Column], rows: &[Vec<String>], size: f32, with_head: bool) {
        let (widths, heads, head_height) = self.measured(columns, size);
        let width: f32 = widths.iter().sum();
        let leading = size + 2.4;
        let mut headed = !with_head;
        for row in rows {
            let cells: Vec<Vec<String>> =
                row.iter().zip(&widths).map(|(cell, width)| self.faces.regular.wrap(cell, size, width - 4.0)).collect();
            let most = (self.page().height - 2.0 * MARGIN - FOOT - head_height - 50.0) / leading;
            let lines = (cells.iter().map(Vec::len).max().unwrap_or(1) as f32).min(most.floor());
            let height = lines * leading + 4.0;
            if !headed || self.room() < height {
                if headed || self.room() < head_height + height {
                    self.ensure(f32::MAX);
                }
                self.table_head(columns, &widths, &heads, size, head_height);
                headed = true;
            }
            let top = self.y;
            let mut x = MARGIN;
            for ((cell, column), width) in cells.iter().zip(columns).zip(&widths) {
                for (index, line) in cell.iter().take(lines as usize).enumerate() {
                    let y = top + size + 2.0 + index as f32 * leading;
                    let at = aligned(&self.faces.regular, line, size, x, *width, column.figures);
                    self.page().text((at, y), size, Weight::Regular, Ink::Black, line.clone());
                }
                x += width;
            }
            self.y = top + height;
            let (y, right) = (self.y, MARGIN + width);
            self.page().rule((MARGIN, y), (right, y), 0.3, Ink::Rule);
        }
        self.y += 6.0;
    }

    fn table_head(&mut self, columns: &[Column], widths: &[f32], heads: &[Vec<String>], size: f32, height: f32) {
        let (top, width) = (self.y, self.width());
        self.page().marks.push(PageMark::Ground { x: MARGIN, y: top, width, height, ink: Ink::Wash });
        let mut x = MARGIN;
        for ((column, column_width), lines) in columns.iter().zip(widths).zip(heads) {
            for (index, line) in lines.iter().enumerate() {
                let y = top + size + 1.5 + index as f32 * (size + 2.4);
                let at = aligned(&self.faces.bold, line, size - 0.6, x, *column_width, column.figures);
                self.page().text((at, y), size - 0.6, Weight::Bold, Ink::Black, line.clone());
            }
            x += column_width;
        }
        self.page().rule((MARGIN, top + height), (MARGIN + width, top + height), 0.8, Ink::Black);
        self.y = top + height;
    }

    /// Puts the running foot on every page: `left`, the middle, page x of y.
    pub(crate) fn feet(&mut self, left: &str, middle: &str) {
        let count = self.pages.len();
        for (index, page) in self.pages.iter_mut().enumerate() {
            let y = page.height - MARGIN + 4.0;
            let right = page.width - MARGIN;
            page.rule((MARGIN, y - 11.0), (right, y - 11.0), 0.5, Ink::Black);
            page.text((MARGIN, y), 7.5, Weight::Bold, Ink::Black, left);
            let numbered = format!("page {} of {count}", index + 1);
            let at = right - self.faces.regular.width(&numbered, 7.5);
            page.text((at, y), 7.5, Weight::Regular, Ink::Black, numbered);
            let at = (page.width - self.faces.regular.width(middle, 6.4)) / 2.0;
            page.text((at, y), 6.4, Weight::Regular, Ink::Grey, middle);
        }
    }
}

fn aligned(face: &Face, line: &str, size: f32, x: f32, width: f32, right: bool) -> f32 {
    if right { x + width - 7.0 - face.width(line, size) } else { x + 2.0 }
}
