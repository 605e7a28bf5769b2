package signal

import "math"

// Background models the slow part of a signal under its peaks: asymmetrically reweighted penalised least squares (Baek, Park, Ahn
// & Choo, Analyst 140 (2015) 250). bend is the length, in samples, over which it may bend; peaks are to be much narrower. It works on
// means of neighbouring samples where bend allows, in time proportional to len(y).
func Background(y []float64, bend float64) []float64 {
	if len(y) < MinPoints {
		return append([]float64(nil), y...)
	}
	group := max(1, int(bend/100))
	coarse := make([]float64, (len(y)+group-1)/group)
	for i := range coarse {
		part := y[i*group : min(len(y), (i+1)*group)]
		for _, v := range part {
			coarse[i] += v / float64(len(part))
		}
	}
	// A penalty on second differences halves a wave whose length is 2π λ^¼ samples.
	lambda := math.Pow(bend/float64(group)/(2*math.Pi), 4)
	model := reweighted(coarse, max(1, lambda))
	out := make([]float64, len(y))
	for i := range out {
		x := (float64(i) - float64(group-1)/2) / float64(group)
		k := max(0, min(len(model)-2, int(math.Floor(x))))
		f := x - float64(k)
		if len(model) == 1 {
			k, f = 0, 0
			out[i] = model[0]
			continue
		}
		out[i] = model[k]*(1-f) + model[k+1]*f
	}
	return out
}

// reweighted solves (W + λ DᵀD) z = W y again and again with weights that let what stands above the model go.
func reweighted(y []float64, lambda float64) []float64 {
	const rounds, settled = 60, 1e-4
	n := len(y)
	w, z := make([]float64, n), make([]float64, n)
	for i := range w {
		w[i] = 1
	}
	for range rounds {
		smoothest(z, y, w, lambda)
		mean, sd, count := 0.0, 0.0, 0.0
		for i := range y {
			if d := y[i] - z[i]; d < 0 {
				mean, count = mean+d, count+1
			}
		}
		if count == 0 {
			break
		}
		mean /= count
		for i := range y {
			if d := y[i] - z[i]; d < 0 {
				sd += (d - mean) * (d - mean)
			}
		}
		sd = math.Sqrt(sd / count)
		if sd == 0 {
			break
		}
		change, total := 0.0, 0.0
		for i := range y {
			next := 1 / (1 + math.Exp(min(700, 2*(y[i]-z[i]-(2*sd-mean))/sd)))
			change, total = change+(next-w[i])*(next-w[i]), total+w[i]*w[i]
			w[i] = next
		}
		if change < settled*settled*total {
			break
		}
	}
	return z
}

// smoothest solves the five-banded system by LDLᵀ, in place of z.
func smoothest(z, y, w []float64, lambda float64) {
	n := len(y)
	d, e, f := make([]float64, n), make([]float64, n), make([]float64, n) // diagonal and the two below it, of L
	for i := range n {
		// Rows of DᵀD: 1 5 6 … 6 5 1 on the diagonal, −2 −4 … −4 −2 beside it, 1 beyond.
		diagonal, beside := 6.0, -4.0
		switch {
		case i == 0 || i == n-1:
			diagonal = 1
		case i == 1 || i == n-2:
			diagonal = 5
		}
		if i == 0 || i == n-2 {
			beside = -2
		}
		a, b, c := w[i]+lambda*diagonal, lambda*beside, lambda
		rhs := w[i] * y[i]
		if i >= 1 {
			a -= e[i-1] * e[i-1] * d[i-1]
			b -= e[i-1] * f[i-1] * d[i-1]
			rhs -= e[i-1] * z[i-1]
		}
		if i >= 2 {
			a -= f[i-2] * f[i-2] * d[i-2]
			rhs -= f[i-2] * z[i-2]
		}
		d[i], e[i], f[i], z[i] = a, b/a, c/a, rhs
	}
	for i := range n {
		z[i] /= d[i]
	}
	for i := n - 2; i >= 0; i-- {
		z[i] -= e[i] * z[i+1]
		if i+2 < n {
			z[i] -= f[i] * z[i+2]
		}
	}
}

// StiffCurve finds the z for which Σ w (z − y)² + Σ stiff (Δ³z)² is least, by LDLᵀ of a seven-banded system; stiff[k] goes with the
// third difference of z[k] to z[k+3]. Where the weights leave pieces of z without support, they follow y. It can be asked again and again with
// other weights.
func StiffCurve(stiff []float64) (solve func(z, y, w []float64)) {
	n := len(stiff)
	penalty, band := make([][4]float64, n), make([][4]float64, n) // element of row i and column i−d
	coefficients := [4]float64{-1, 3, -3, 1}
	for k := 0; k+3 < n; k++ {
		for a := range 4 {
			for b := range a + 1 {
				penalty[k+a][a-b] += stiff[k] * coefficients[a] * coefficients[b]
			}
		}
	}
	return func(z, y, w []float64) {
		var last [3][4]float64 // rows i−1 to i−3 of L, with D on the diagonal
		for i := range n {
			row := penalty[i]
			support := w[i] + 1e-9
			row[0] += support
			right := support * y[i]
			if i >= 3 {
				row[3] /= last[2][0]
			}
			if i >= 2 {
				row[2] = (row[2] - row[3]*last[1][1]*last[2][0]) / last[1][0]
			}
			if i >= 1 {
				row[1] = (row[1] - row[2]*last[0][1]*last[1][0] - row[3]*last[0][2]*last[2][0]) / last[0][0]
			}
			row[0] -= row[1]*row[1]*last[0][0] + row[2]*row[2]*last[1][0] + row[3]*row[3]*last[2][0]
			if i >= 1 {
				right -= row[1] * z[i-1]
			}
			if i >= 2 {
				right -= row[2] * z[i-2]
			}
			if i >= 3 {
				right -= row[3] * z[i-3]
			}
			z[i], band[i] = right, row
			last[2], last[1], last[0] = last[1], last[0], row
		}
		for i := range n {
			z[i] /= band[i][0]
		}
		for i := n - 1; i >= 0; i-- {
			for d := 1; d <= 3 && i+d < n; d++ {
				z[i] -= band[i+d][d] * z[i+d]
			}
		}
	}
}
