package study

import (
	"os"
	"strconv"
	"testing"
)

func TestTry(t *testing.T) {
	n, _ := strconv.Atoi(os.Getenv("N"))
	if n == 0 {
		n = 10
	}
	Print(os.Stdout, Run(1, n, 0.02))
}
