package jobs

import (
	"errors"
	"fmt"
	"runtime/debug"

	"github.com/sourcegraph/conc/panics"
)

// mistake is a panic in work that was being done: a mistake of ours, which another try may or may
// not meet again.
type mistake struct {
	what  any
	stack string
}

// Error says what the panic said.
func (m *mistake) Error() string { return fmt.Sprint(m.what) }

// recovering runs do and makes a panic a mistake, in this goroutine or in one that do waited for.
func recovering(do func() error) (err error) {
	defer func() {
		switch what := recover().(type) {
		case nil:
		case *panics.Recovered: // of another goroutine, which has kept its stack
			err = &mistake{what.Value, string(what.Stack)}
		default:
			err = &mistake{what, string(debug.Stack())}
		}
	}()
	err = do()
	var elsewhere *panics.ErrRecovered
	if errors.As(err, &elsewhere) {
		err = &mistake{elsewhere.Value, string(elsewhere.Stack)}
	}
	return err
}
