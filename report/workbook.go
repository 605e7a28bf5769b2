package report

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"yugen/core/batch"
	"yugen/core/curves"
)

// workbook writes sheets whose numbers a reviewer can recalculate: curves from their points, amounts from areas.
type workbook struct {
	f    *excelize.File
	in   Input
	at   map[string]curveCells // by compound id
	rows map[amountOf]int      // on the sheet of amounts
	is   map[string]string     // the internal standard of each target, by ids
	// ratio is how much of it an injection holds, over what the method says.
	ratio func(e batch.Entry, compoundID string) float64
	open  []openFormula
	fail  error
}

// amountOf is one compound in one injection, by its place in the run.
type amountOf struct {
	injection  int
	compoundID string
}

func newWorkbook(f *excelize.File, in Input) *workbook {
	w := &workbook{f: f, in: in, at: map[string]curveCells{}, rows: map[amountOf]int{}, is: map[string]string{}, ratio: in.Method.InternalRatios()}
	for id, is := range in.Method.Against() {
		w.is[id] = is.ID
	}
	row := 2
	for i := range in.Lines {
		for _, c := range in.Result.Curves {
			if r := in.Result.Injections[i].Readings[c.CompoundID]; r.Concentration != nil && r.Response != nil {
				w.rows[amountOf{i, c.CompoundID}] = row
				row++
			}
		}
	}
	return w
}

// openFormula is a formula whose result is not known yet.
type openFormula struct{ sheet, cell, formula string }

// curveCells are the cells of a curve's coefficients on the sheet of curves.
type curveCells struct {
	b0, b1, b2 string
	middle     float64 // of the range in use
}

const (
	curveSheet  = "Curves"
	amountSheet = "Amounts"
)

// set writes a value and, where formula is not empty, the formula that gives it; the value is what a reader without a calculator sees.
func (w *workbook) set(sheet string, column, row int, value any, formula string) string {
	cell, err := excelize.CoordinatesToCellName(column, row)
	if err == nil && value != nil {
		err = w.f.SetCellValue(sheet, cell, value)
	}
	if err == nil && formula != "" {
		err = w.f.SetCellFormula(sheet, cell, formula)
		if value == nil {
			w.open = append(w.open, openFormula{sheet, cell, formula})
		}
	}
	if err != nil && w.fail == nil {
		w.fail = err
	}
	return cell
}

// results computes the formulas whose results are not known otherwise, for readers that do not.
func (w *workbook) results() {
	for _, o := range w.open {
		text, err := w.f.CalcCellValue(o.sheet, o.cell, excelize.Options{RawCellValue: true})
		v, errNumber := strconv.ParseFloat(text, 64)
		if err != nil || errNumber != nil {
			continue // an empty operand: a reader that calculates shows the same
		}
		if err = w.f.SetCellValue(o.sheet, o.cell, v); err == nil {
			err = w.f.SetCellFormula(o.sheet, o.cell, o.formula)
		}
		if err != nil && w.fail == nil {
			w.fail = err
		}
	}
}

// The columns of a curve's points.
const (
	colName = iota + 1
	colLevel
	colResponse
	colUse
	colX // what the curve is fitted in: x, or its logarithm
	colY
	colWeight
	colWX
	colWY
	colWXX
	colWXY
	colWX3
	colWX4
	colWXXY
	colFitted
	colResidual
	colBack
	colDeviation
)

// curves writes each curve as a block: its coefficients as formulas of the sums over its points, then the points.
func (w *workbook) curves() {
	row := 1
	for _, c := range w.in.Result.Curves {
		if c.Fit == nil || c.RelativeTo != "" {
			continue
		}
		row = w.curve(c, row) + 2
	}
}

func (w *workbook) curve(c batch.Curve, row int) (last int) {
	name := c.CompoundID
	if compound := compoundOf(w.in, c.CompoundID); compound != nil {
		name = compound.Name
	}
	first := row + 3
	last = first + len(c.Points) - 1
	sum := func(column int) string {
		letter, _ := excelize.ColumnNumberToName(column)
		return fmt.Sprintf("SUM(%s%d:%s%d)", letter, first, letter, last)
	}
	for i, title := range []string{name, shape(string(c.Fit.Model)) + ", weight " + shape(string(c.Fit.Weight)), "b0", "", "b1", "", "b2", "", "residual SD", "", "R²"} {
		if title != "" {
			w.set(curveSheet, i+1, row, title, "")
		}
	}
	formulas := coefficientFormulas(c.Fit.Model, sum)
	cells := make([]string, 3)
	for k, of := range coefficientOrder(c.Fit.Model) {
		cells[of] = absolute(w.set(curveSheet, 4+2*of, row, c.Fit.Coefficients[k], ""))
	}
	// A coefficient may stand on another, so their cells are known before their formulas.
	for k, of := range coefficientOrder(c.Fit.Model) {
		formula := strings.NewReplacer("{b1}", cells[1], "{b2}", cells[2]).Replace(formulas[of])
		if len(c.Fit.Points) == len(c.Points) && !w.in.Method.Curves.Averaged {
			w.set(curveSheet, 4+2*of, row, c.Fit.Coefficients[k], formula)
		}
	}
	w.at[c.CompoundID] = curveCells{orZero(cells[0]), orZero(cells[1]), orZero(cells[2]), (c.Fit.LowX + c.Fit.HighX) / 2}
	w.statistics(c, row, first, last)
	for i, title := range []string{"standard", "level, " + w.in.Method.Curves.Unit, "response", "in use", "x", "y", "weight", "w x", "w y", "w x²", "w x y", "w x³", "w x⁴", "w x² y", "fitted", "residual", "back-calculated", "deviation, %"} {
		w.set(curveSheet, i+1, row+2, title, "")
	}
	for i := range c.Points {
		w.point(c, i, first+i)
	}
	return last
}

// statistics writes residual standard deviation and R², as formulas of the points where the curve goes through each of them.
func (w *workbook) statistics(c batch.Curve, row, first, last int) {
	sd, r2 := "", ""
	if !w.in.Method.Curves.Averaged {
		cells := func(column int) string {
			letter, _ := excelize.ColumnNumberToName(column)
			return fmt.Sprintf("%s%d:%s%d", letter, first, letter, last)
		}
		weight, y, residual := cells(colWeight), cells(colY), cells(colResidual)
		rest := fmt.Sprintf("SUMPRODUCT(%s,%s,%s)", weight, residual, residual)
		n := fmt.Sprintf("SUM(%s)", cells(colUse))
		total := fmt.Sprintf("SUMPRODUCT(%s,%s,%s)", weight, y, y)
		if !c.Fit.R2Uncentred {
			total += fmt.Sprintf("-SUM(%s)^2/SUM(%s)", cells(colWY), weight)
		}
		sd = fmt.Sprintf("SQRT(%s*%s/SUM(%s)/(%s-%d))", rest, n, weight, n, len(c.Fit.Coefficients))
		r2 = fmt.Sprintf("1-%s/(%s)", rest, total)
	}
	if c.Fit.ResidualSD != nil {
		w.set(curveSheet, 10, row, *c.Fit.ResidualSD, sd)
	}
	if c.Fit.R2 != nil {
		w.set(curveSheet, 12, row, *c.Fit.R2, r2)
	}
}

func (w *workbook) point(c batch.Curve, i, row int) {
	q, p := c.Points[i], c.Fit.Points[i]
	use := 1
	if p.Out {
		use = 0
	}
	cell := func(column int) string {
		name, _ := excelize.CoordinatesToCellName(column, row)
		return name
	}
	at := w.at[c.CompoundID]
	w.set(curveSheet, colName, row, w.injectionName(q.InjectionID), "")
	w.set(curveSheet, colLevel, row, p.X, "")
	w.set(curveSheet, colResponse, row, p.Y, "")
	w.set(curveSheet, colUse, row, use, "")
	x, y := cell(colLevel), cell(colResponse)
	if c.Fit.Model == curves.LogLog {
		w.set(curveSheet, colX, row, nil, fmt.Sprintf("IF(%s=1,LOG10(%s),0)", cell(colUse), x))
		w.set(curveSheet, colY, row, nil, fmt.Sprintf("IF(%s=1,LOG10(%s),0)", cell(colUse), y))
	} else {
		w.set(curveSheet, colX, row, p.X, x)
		w.set(curveSheet, colY, row, p.Y, y)
	}
	w.set(curveSheet, colWeight, row, nil, fmt.Sprintf("IF(%s=1,%s,0)", cell(colUse), weightFormula(*c.Fit, i, x, y)))
	weight, cx, cy := cell(colWeight), cell(colX), cell(colY)
	for column, formula := range map[int]string{
		colWX: weight + "*" + cx, colWY: weight + "*" + cy, colWXX: weight + "*" + cx + "^2", colWXY: weight + "*" + cx + "*" + cy,
		colWX3: weight + "*" + cx + "^3", colWX4: weight + "*" + cx + "^4", colWXXY: weight + "*" + cx + "^2*" + cy,
	} {
		w.set(curveSheet, column, row, nil, formula)
	}
	fitted := fmt.Sprintf("%s+%s*%s+%s*%s^2", at.b0, at.b1, cell(colX), at.b2, cell(colX))
	if c.Fit.Model == curves.LogLog {
		fitted = fmt.Sprintf("%s+%s*LOG10(%s)", at.b0, at.b1, x)
	}
	if c.Fit.Model == curves.LogLog && (p.X <= 0 || p.Y <= 0) { // it has no logarithm, and so no place beside the curve
		return
	}
	w.set(curveSheet, colFitted, row, p.Fitted, fitted)
	residual := fmt.Sprintf("%s-%s", y, cell(colFitted))
	if c.Fit.Model == curves.LogLog {
		residual = fmt.Sprintf("LOG10(%s)-%s", y, cell(colFitted))
	}
	w.set(curveSheet, colResidual, row, p.Residual, residual)
	if p.BackCalculated != nil {
		w.set(curveSheet, colBack, row, *p.BackCalculated, inverseFormula(c.Fit.Model, at, y))
	}
	if p.DeviationPercent != nil {
		w.set(curveSheet, colDeviation, row, *p.DeviationPercent, fmt.Sprintf("100*(%s-%s)/%s", cell(colBack), x, x))
	}
}

// coefficientOrder says which of b0, b1, b2 each coefficient of a model is.
func coefficientOrder(m curves.Model) []int {
	switch m {
	case curves.Linear, curves.LogLog:
		return []int{0, 1}
	case curves.Quadratic:
		return []int{0, 1, 2}
	case curves.QuadraticOrigin:
		return []int{1, 2}
	}
	return []int{1}
}

// coefficientFormulas solve the normal equations by Cramer's rule, from the sums over the points.
func coefficientFormulas(m curves.Model, sum func(column int) string) [3]string {
	s0, s1, s2, s3, s4 := sum(colWeight), sum(colWX), sum(colWXX), sum(colWX3), sum(colWX4)
	t0, t1, t2 := sum(colWY), sum(colWXY), sum(colWXXY)
	switch m {
	case curves.Linear, curves.LogLog:
		return [3]string{
			fmt.Sprintf("(%s-{b1}*%s)/%s", t0, s1, s0),
			fmt.Sprintf("(%s*%s-%s*%s)/(%s*%s-%s^2)", s0, t1, s1, t0, s0, s2, s1),
		}
	case curves.QuadraticOrigin:
		determinant := fmt.Sprintf("(%s*%s-%s^2)", s2, s4, s3)
		return [3]string{"", fmt.Sprintf("(%s*%s-%s*%s)/%s", t1, s4, t2, s3, determinant), fmt.Sprintf("(%s*%s-%s*%s)/%s", s2, t2, s3, t1, determinant)}
	case curves.Quadratic:
		determinant := fmt.Sprintf("(%[1]s*(%[3]s*%[5]s-%[4]s^2)-%[2]s*(%[2]s*%[5]s-%[3]s*%[4]s)+%[3]s*(%[2]s*%[4]s-%[3]s^2))", s0, s1, s2, s3, s4)
		b2 := fmt.Sprintf("(%[1]s*(%[3]s*%[7]s-%[4]s*%[6]s)-%[2]s*(%[2]s*%[7]s-%[3]s*%[6]s)+%[5]s*(%[2]s*%[4]s-%[3]s^2))/%[8]s", s0, s1, s2, s3, t0, t1, t2, determinant)
		b1 := fmt.Sprintf("(%[1]s*(%[6]s*%[4]s-%[7]s*%[3]s)-%[5]s*(%[8]s*%[4]s-%[2]s*%[3]s)+%[2]s*(%[8]s*%[7]s-%[6]s*%[2]s))/%[9]s", s0, s2, s3, s4, t0, t1, t2, s1, determinant)
		return [3]string{fmt.Sprintf("(%s-{b1}*%s-{b2}*%s)/%s", t0, s1, s2, s0), b1, b2}
	}
	return [3]string{"", fmt.Sprintf("%s/%s", t1, s2)}
}

func weightFormula(fit curves.Fit, point int, x, y string) string {
	switch fit.Weight {
	case curves.PerVariance:
		return fmt.Sprintf("1/(%s+%s*%s^2)", digits(fit.Variance.Constant), digits(fit.Variance.Proportional), x)
	case curves.PerMeasuredVariance:
		return digits(fit.Points[point].Weight)
	case curves.PerX:
		return "1/" + x
	case curves.PerX2:
		return "1/" + x + "^2"
	case curves.PerY:
		return "1/" + y
	case curves.PerY2:
		return "1/" + y + "^2"
	}
	return "1"
}

// inverseFormula reads x from y, of a quadratic on the branch that holds the middle of its range; the form of the root is the one without cancellation.
func inverseFormula(m curves.Model, at curveCells, y string) string {
	switch m {
	case curves.Quadratic, curves.QuadraticOrigin:
		root := fmt.Sprintf("SIGN(%[2]s+2*%[3]s*%[5]s)*SQRT(%[2]s^2-4*%[3]s*(%[1]s-%[4]s))", at.b0, at.b1, at.b2, y, digits(at.middle))
		return fmt.Sprintf("IF(SIGN(%[2]s)=SIGN(%[2]s+2*%[3]s*%[6]s),2*(%[4]s-%[1]s)/(%[2]s+%[5]s),(%[5]s-%[2]s)/(2*%[3]s))", at.b0, at.b1, at.b2, y, root, digits(at.middle))
	case curves.LogLog:
		return fmt.Sprintf("10^((LOG10(%s)-%s)/%s)", y, at.b0, at.b1)
	}
	return fmt.Sprintf("(%s-%s)/%s", y, at.b0, at.b1)
}

// amounts writes every reading from its areas on, each step a formula of the one before.
func (w *workbook) amounts() {
	m := w.in.Method
	for i, title := range []string{"injection", "name", "compound", "measure", "internal standard", "response", "concentration, " + m.Curves.Unit, "dilution", "volume, " + m.Amounts.VolumeUnit, "sample, " + m.Amounts.SampleUnit, "factor", "unit factor", "amount, " + m.ReportedUnit(), "remark"} {
		w.set(amountSheet, i+1, 1, title, "")
	}
	for i, line := range w.in.Lines {
		for _, c := range w.in.Result.Curves {
			if row, ok := w.rows[amountOf{i, c.CompoundID}]; ok {
				w.amount(i, line, c, w.in.Result.Injections[i].Readings[c.CompoundID], row)
			}
		}
	}
}

// amountCells are the cells of a column of the sheet of amounts that hold a compound in some injections and pass.
func (w *workbook) amountCells(column, compoundID string, injections []int, pass func(batch.Reading) bool) (cells []string) {
	for _, i := range injections {
		if row, ok := w.rows[amountOf{i, compoundID}]; ok && pass(w.in.Result.Injections[i].Readings[compoundID]) {
			cells = append(cells, fmt.Sprintf("%s!$%s$%d", amountSheet, column, row))
		}
	}
	return cells
}

// blankFormula is the mean content of the blanks of a compound, at their own dilution; empty where none is taken off.
func (w *workbook) blankFormula(compoundID string) string {
	if !w.in.Method.Amounts.TakeOffBlank {
		return ""
	}
	var terms []string
	n := 0
	for i, line := range w.in.Lines {
		r := w.in.Result.Injections[i].Readings[compoundID]
		switch row, ok := w.rows[amountOf{i, compoundID}]; {
		case line.Role != batch.Blank:
		case ok:
			n++
			terms = append(terms, fmt.Sprintf("$G$%d*%s", row, digits(line.Dilution)))
		case r.PeakNumber == nil:
			n++
		}
	}
	if n == 0 || len(terms) == 0 {
		return ""
	}
	return fmt.Sprintf("(%s)/%d", strings.Join(terms, "+"), n)
}

func (w *workbook) amount(i int, line Line, c batch.Curve, r batch.Reading, row int) {
	cell := func(column int) string {
		name, _ := excelize.CoordinatesToCellName(column, row)
		return name
	}
	injected, m := w.in.Result.Injections[i], w.in.Method
	measure := func(id string) any {
		p := peakOf(injected, id)
		if p == nil {
			return nil
		}
		if m.Curves.Response == batch.Height {
			return p.Height
		}
		return p.AreaS
	}
	w.set(amountSheet, 1, row, i+1, "")
	w.set(amountSheet, 2, row, line.Name, "")
	if compound := compoundOf(w.in, c.CompoundID); compound != nil {
		w.set(amountSheet, 3, row, compound.Name, "")
	}
	w.set(amountSheet, 4, row, measure(c.CompoundID), "")
	response := cell(4)
	if is, internal := w.is[c.CompoundID]; internal {
		w.set(amountSheet, 5, row, measure(is), "")
		response = cell(4) + "/" + cell(5)
	}
	w.set(amountSheet, 6, row, *r.Response, response)
	reading, remark := w.reading(i, c, r, cell(6))
	w.set(amountSheet, 7, row, *r.Concentration, reading)
	if r.Amount != nil && m.Amounts.Prepared() {
		w.set(amountSheet, 8, row, line.Dilution, "")
		w.set(amountSheet, 9, row, *line.Volume, "")
		w.set(amountSheet, 10, row, *line.Sample, "")
		w.set(amountSheet, 11, row, line.Factor, "")
		net := cell(7)
		if off := w.blankFormula(c.CompoundID); off != "" {
			net = fmt.Sprintf("(%s-%s/%s)", cell(7), off, cell(8))
		}
		// The factor between the units is the same for every amount of a compound, so it is taken from one of 1.
		one := line.Entry
		one.Dilution, one.Factor, one.Volume, one.Sample = 1, 1, ptrTo(1.0), ptrTo(1.0)
		factor, err := m.Content(one, c.CompoundID, 1)
		if err != nil && w.fail == nil {
			w.fail = err
		}
		w.set(amountSheet, 12, row, unitFactor(factor.Value), "")
		w.set(amountSheet, 13, row, *r.Amount, fmt.Sprintf("%s*%s*%s/%s*%s*%s", net, cell(8), cell(9), cell(10), cell(11), cell(12)))
	} else if r.Amount != nil && m.Amounts.AsMeasured {
		formula := cell(7)
		if off := w.blankFormula(c.CompoundID); off != "" {
			formula = fmt.Sprintf("%s-%s/%s", formula, off, digits(line.Dilution))
		}
		w.set(amountSheet, 13, row, *r.Amount, formula)
	} else if r.Amount != nil {
		w.set(amountSheet, 13, row, *r.Amount, w.shareFormula(i, cell(7)))
	}
	if remark != "" {
		w.set(amountSheet, 14, row, remark, "")
	}
}

// shareFormula is a concentration in percent of all that count in its injection.
func (w *workbook) shareFormula(i int, concentration string) string {
	var cells []string
	for _, c := range w.in.Result.Curves {
		if row, ok := w.rows[amountOf{i, c.CompoundID}]; ok {
			cells = append(cells, fmt.Sprintf("MAX(0,$G$%d)", row))
		}
	}
	return fmt.Sprintf("100*%s/(%s)", concentration, strings.Join(cells, "+"))
}

func ptrTo(v float64) *float64 { return &v }

// digits is a number as it stands in a formula, whose exponents have a capital letter (ECMA-376, 18.17.2.2).
func digits(v float64) string { return strconv.FormatFloat(v, 'G', -1, 64) }

// unitFactor is the factor between the units with its rounding taken off: it is a product of powers of ten.
func unitFactor(v float64) float64 {
	var rounded float64
	if _, err := fmt.Sscanf(fmt.Sprintf("%.12e", v), "%g", &rounded); err != nil {
		return v
	}
	return rounded
}

// reading is the formula of a concentration, or why there is none.
func (w *workbook) reading(i int, c batch.Curve, r batch.Reading, response string) (formula, remark string) {
	m := w.in.Method
	id := c.CompoundID
	if c.RelativeTo != "" {
		id = c.RelativeTo
		response = fmt.Sprintf("(%s/%g)", response, m.Curves.Own[c.CompoundID].ResponseFactor)
	}
	at, ok := w.at[id]
	switch {
	case m.Curves.Way == batch.ByAddition:
		return "", "by standard addition; value"
	case len(r.Around) > 0 || len(c.Blocks) > 0:
		return "", "by the calibrations before and after; value"
	case !ok:
		return "", "value"
	}
	prefix := func(cell string) string {
		if cell == "0" {
			return cell
		}
		return curveSheet + "!" + cell
	}
	at = curveCells{prefix(at.b0), prefix(at.b1), prefix(at.b2), at.middle}
	formula = inverseFormula(c.Fit.Model, at, response)
	if ratio := w.ratio(w.in.Lines[i].Entry, c.CompoundID); ratio != 1 {
		formula = fmt.Sprintf("(%s)*%s", formula, digits(ratio))
	}
	return formula, ""
}

func (w *workbook) injectionName(id string) string {
	for _, l := range w.in.Lines {
		if l.ID == id {
			return l.Name
		}
	}
	return "kept from earlier"
}

func absolute(cell string) string {
	i := strings.IndexAny(cell, "0123456789")
	return "$" + cell[:i] + "$" + cell[i:]
}

func orZero(cell string) string {
	if cell == "" {
		return "0"
	}
	return cell
}
