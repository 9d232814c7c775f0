package mechanism

import "math"

// rankless is how small a pivot is, against the first one, where a matrix is taken to say nothing more.
const rankless = 1e-9

// leastSquares solves a·x = b, a having rows of columns numbers, so that the sum of squares of what is left is least, by
// Householder reflections of the columns, the longest first (Golub and Van Loan, Matrix Computations, 5.4.2, from
// memory). Columns that say nothing new get 0. a and b are used up. It returns the rank.
func leastSquares(a []float64, rows, columns int, b, x []float64, order []int) (rank int) {
	at := func(i, k int) *float64 { return &a[i*columns+order[k]] }
	for k := range columns {
		order[k] = k
	}
	first := 0.0
	for rank = 0; rank < min(rows, columns); rank++ {
		best, most := rank, -1.0
		for k := rank; k < columns; k++ {
			if sum := below(at, rank, rows, k); sum > most {
				best, most = k, sum
			}
		}
		norm := math.Sqrt(most)
		if rank == 0 {
			first = norm
		}
		if norm <= rankless*first || norm == 0 {
			break
		}
		order[rank], order[best] = order[best], order[rank]
		reflect(at, b, rank, rows, columns, norm)
	}
	for k := range columns {
		x[k] = 0
	}
	for k := rank - 1; k >= 0; k-- {
		sum := b[k]
		for l := k + 1; l < rank; l++ {
			sum -= *at(k, l) * x[order[l]]
		}
		x[order[k]] = sum / *at(k, k)
	}
	return rank
}

func below(at func(i, k int) *float64, from, rows, k int) (sum float64) {
	for i := from; i < rows; i++ {
		sum += *at(i, k) * *at(i, k)
	}
	return sum
}

// reflect turns column k onto its axis, and the columns behind it and b with it.
func reflect(at func(i, k int) *float64, b []float64, k, rows, columns int, norm float64) {
	if *at(k, k) > 0 {
		norm = -norm
	}
	// The reflection is across v = column − norm·axis; v·v/2 = norm·(norm − first).
	first := *at(k, k) - norm
	half := -norm * first
	for l := k + 1; l < columns; l++ {
		sum := first * *at(k, l)
		for i := k + 1; i < rows; i++ {
			sum += *at(i, k) * *at(i, l)
		}
		sum /= half
		*at(k, l) -= sum * first
		for i := k + 1; i < rows; i++ {
			*at(i, l) -= sum * *at(i, k)
		}
	}
	sum := first * b[k]
	for i := k + 1; i < rows; i++ {
		sum += *at(i, k) * b[i]
	}
	sum /= half
	b[k] -= sum * first
	for i := k + 1; i < rows; i++ {
		b[i] -= sum * *at(i, k)
	}
	*at(k, k) = norm
}
