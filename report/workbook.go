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
	open []openFormula
	fail error
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
	for i, title := range []string{name, string(c.Fit.Model) + ", weight " + string(c.Fit.Weight), "b0", "", "b1", "", "b2", "", "residual SD", "", "R²"} {
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
	w.set(curveSheet, 10, row, deref(c.Fit.ResidualSD), "")
	w.set(curveSheet, 12, row, deref(c.Fit.R2), "")
	for i, title := range []string{"standard", "level, " + w.in.Method.Curves.Unit, "response", "in use", "x", "y", "weight", "w x", "w y", "w x²", "w x y", "w x³", "w x⁴", "w x² y", "fitted", "residual", "back-calculated", "deviation, %"} {
		w.set(curveSheet, i+1, row+2, title, "")
	}
	for i := range c.Points {
		w.point(c, i, first+i)
	}
	return last
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
	w.set(curveSheet, colWeight, row, nil, fmt.Sprintf("IF(%s=1,%s,0)", cell(colUse), weightFormula(c.Fit.Weight, x, y)))
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

func weightFormula(weight curves.Weight, x, y string) string {
	switch weight {
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
		root := fmt.Sprintf("SIGN(%[2]s+2*%[3]s*%[5]s)*SQRT(%[2]s^2-4*%[3]s*(%[1]s-%[4]s))", at.b0, at.b1, at.b2, y, strconv.FormatFloat(at.middle, 'g', -1, 64))
		return fmt.Sprintf("IF(SIGN(%[2]s)=SIGN(%[2]s+2*%[3]s*%[6]s),2*(%[4]s-%[1]s)/(%[2]s+%[5]s),(%[5]s-%[2]s)/(2*%[3]s))", at.b0, at.b1, at.b2, y, root, strconv.FormatFloat(at.middle, 'g', -1, 64))
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
	row := 2
	for i, line := range w.in.Lines {
		for _, c := range w.in.Result.Curves {
			r := w.in.Result.Injections[i].Readings[c.CompoundID]
			if r.Concentration == nil || r.Response == nil {
				continue
			}
			w.amount(i, line, c, r, row)
			row++
		}
	}
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
	is, internal := m.InternalStandard()
	if internal {
		w.set(amountSheet, 5, row, measure(is.ID), "")
		response = cell(4) + "/" + cell(5)
	}
	w.set(amountSheet, 6, row, *r.Response, response)
	reading, remark := w.reading(line, c, cell(6))
	w.set(amountSheet, 7, row, *r.Concentration, reading)
	if r.Amount != nil && !m.Amounts.PercentOfTotal {
		w.set(amountSheet, 8, row, line.Dilution, "")
		w.set(amountSheet, 9, row, *line.Volume, "")
		w.set(amountSheet, 10, row, *line.Sample, "")
		w.set(amountSheet, 11, row, line.Factor, "")
		plain := *r.Concentration * line.Dilution * *line.Volume / *line.Sample * line.Factor
		if plain != 0 {
			w.set(amountSheet, 12, row, unitFactor(*r.Amount/plain), "")
			w.set(amountSheet, 13, row, *r.Amount, fmt.Sprintf("%s*%s*%s/%s*%s*%s", cell(7), cell(8), cell(9), cell(10), cell(11), cell(12)))
		}
	} else if r.Amount != nil {
		w.set(amountSheet, 13, row, *r.Amount, "")
	}
	if remark != "" {
		w.set(amountSheet, 14, row, remark, "")
	}
}

// unitFactor is the factor between the units with its rounding taken off: it is a product of powers of ten.
func unitFactor(v float64) float64 {
	var rounded float64
	if _, err := fmt.Sscanf(fmt.Sprintf("%.12e", v), "%g", &rounded); err != nil {
		return v
	}
	return rounded
}

// reading is the formula of a concentration, or why there is none.
func (w *workbook) reading(line Line, c batch.Curve, response string) (formula, remark string) {
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
	case len(c.Blocks) > 1:
		return "", "between two calibrations; value"
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
	if is, internal := m.InternalStandard(); internal && line.Internal != nil {
		formula = fmt.Sprintf("(%s)*%g/%g", formula, *line.Internal, is.Amount)
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
