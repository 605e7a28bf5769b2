package lab

import (
	"os"
	"testing"

	"yugen/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Run(m)) }
