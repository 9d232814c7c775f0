// Package assignment gives each of some things one of others, so that the sum of costs is least (Kuhn 1955, “The Hungarian
// method for the assignment problem”, in the form with potentials and shortest augmenting paths, n²m).
package assignment

import "math"

// Least returns for each of n rows the column, of m ≥ n, that it gets. Costs are finite.
func Least(n, m int, cost func(row, column int) float64) []int {
	u, v := make([]float64, n+1), make([]float64, m+1)
	match, way := make([]int, m+1), make([]int, m+1)
	for i := 1; i <= n; i++ {
		match[0] = i
		j0 := 0
		least := make([]float64, m+1)
		used := make([]bool, m+1)
		for j := range least {
			least[j] = math.Inf(1)
		}
		for match[j0] != 0 {
			used[j0] = true
			i0, delta, j1 := match[j0], math.Inf(1), 0
			for j := 1; j <= m; j++ {
				if used[j] {
					continue
				}
				if c := cost(i0-1, j-1) - u[i0] - v[j]; c < least[j] {
					least[j], way[j] = c, j0
				}
				if least[j] < delta {
					delta, j1 = least[j], j
				}
			}
			for j := range v {
				if used[j] {
					u[match[j]] += delta
					v[j] -= delta
				} else {
					least[j] -= delta
				}
			}
			j0 = j1
		}
		for j0 != 0 {
			j1 := way[j0]
			match[j0] = match[j1]
			j0 = j1
		}
	}
	list := make([]int, n)
	for j := 1; j <= m; j++ {
		if match[j] > 0 {
			list[match[j]-1] = j - 1
		}
	}
	return list
}
