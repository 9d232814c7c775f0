package assignment_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/assignment"
)

// The least sum of all permutations, up to seven rows of eight columns.
func TestTheLeastSumIsFound(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 300 {
		n := 1 + r.IntN(7)
		m := n + r.IntN(2)
		costs := make([][]float64, n)
		for i := range costs {
			for range m {
				costs[i] = append(costs[i], float64(r.IntN(10)))
			}
		}
		sum := 0.0
		seen := map[int]bool{}
		for i, k := range assignment.Least(n, m, func(i, k int) float64 { return costs[i][k] }) {
			sum += costs[i][k]
			assert.False(t, seen[k], "each column once")
			seen[k] = true
		}
		assert.Equal(t, brute(costs, make([]bool, m)), sum)
	}
}

func brute(costs [][]float64, taken []bool) float64 {
	if len(costs) == 0 {
		return 0
	}
	least := math.Inf(1)
	for k, c := range costs[0] {
		if taken[k] {
			continue
		}
		taken[k] = true
		least = min(least, c+brute(costs[1:], taken))
		taken[k] = false
	}
	return least
}
