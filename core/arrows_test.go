package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"largo/core/survey"
)

// rooms is who may import whom among our own packages: cmd to web to survey
// to the stages to rig to gear to unit, never back, and no stage another. The two
// rooms of each stage are added from the list of stages.
var rooms = map[string]string{
	"core/unit":       "",
	"core/words":      "",
	"core/fault":      "",
	"core/reckon":     "core/unit",
	"core/sound":      "core/unit",
	"core/sum":        "core/unit core/reckon core/gear core/sound",
	"core/gear":       "core/unit core/fault core/reckon",
	"core/rig":        "core/unit core/words core/fault core/gear",
	"core/finding":    "core/words core/reckon core/rig",
	"core/load":       "core/unit core/reckon core/gear core/rig",
	"core/schedule":   "",
	"core/order":      "core/unit core/words core/gear core/rig core/schedule",
	"core/run":        "core/unit core/words core/fault core/order",
	"core/kick":       "core/unit core/words core/reckon core/gear core/rig core/drive core/order",
	"core/drive":      "core/unit core/reckon core/gear core/rig core/load",
	"core/supply":     "core/unit core/reckon core/gear core/rig core/drive",
	"core/stage":      "core/reckon core/rig core/finding core/load core/drive core/order core/supply",
	"core/rigtest":    "core/unit core/gear core/rig",
	"core/typed":      "core/unit core/fault core/gear core/rig",
	"core/milp":       "",
	"core/pack":       "",
	"core/signal":     "core/unit core/fault",
	"core/thermal":    "",
	"core/limiter":    "core/thermal",
	"core/bench":      "core/unit core/fault core/gear core/reckon core/words core/finding core/thermal",
	"core/plan":       stageMay + " core/match core/milp",
	"core/advise":     stageMay + " core/match core/plan",
	"core/plantest":   "core/unit core/gear core/rig core/plan",
	"exchange":        "core/unit core/words core/fault core/gear core/rig core/milp core/bench",
	"standin":         "core/thermal exchange",
	"demo/tour":       "demo store core/rig core/run core/survey core/start core/strike",
	"demo":            "core/unit core/gear core/rig core/thermal core/bench exchange",
	"store":           "core/unit core/words core/fault core/gear core/rig core/bench core/run",
	"store/cluster":   "",
	"store/storetest": "store store/cluster",
	"web/kit":         kitMay,
	"web/sheet":       roomMay,
	"web/history":     roomMay,
	"web/gear":        roomMay,
	"web/bench":       roomMay,
	"web/run":         roomMay,
	"web/signals":     roomMay,
	"web/sums":        roomMay,
	"web/sums/wasm":   "core/sum",
	"web/jobs":        roomMay + " web/brief", // a job begins with its brief
	"web/webtest":     "store store/storetest web demo/tour",
	"web/browsertest": "",
	"scripts/mutate":  "",
	"scripts/same":    "core/rigtest demo exchange",
	"cmd/largo":       "core/* exchange standin store store/cluster web demo/tour",
}

const stageMay = "core/unit core/pack core/words core/fault core/reckon core/sound core/gear core/rig core/finding " +
	"core/load " +
	"core/drive core/order core/run core/kick core/supply core/stage core/signal core/thermal core/limiter core/bench"

// kitMay is what the kit of the web may know: no stage, for it serves all of them.
const kitMay = "core/unit core/words core/fault core/reckon core/gear core/rig core/finding core/order core/survey " +
	"exchange store"

// roomMay is what a room of the web may know: the kit, and no other room.
const roomMay = "core/* exchange store web/kit"

func init() {
	all, pages := stageMay,
		"core/* store web/kit web/sheet web/history web/gear web/bench web/run web/signals web/jobs web/sums"
	for _, s := range survey.Stages {
		name := string(s.Name)
		rooms["core/"+name], rooms["web/"+name] = stageMay, roomMay
		all, pages = all+" core/"+name, pages+" web/"+name
	}
	rooms["core/survey"], rooms["web"] = all, pages
}

// pure is what the core may not know of.
var pure = []string{"net", "net/http", "html/template", "text/template", "database/sql", "os", "os/exec",
	"time", "io/fs"}

func TestArrowsRunOneWay(t *testing.T) {
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		room := filepath.ToSlash(filepath.Dir(strings.TrimPrefix(path, "../")))
		may, known := rooms[room]
		if !known {
			t.Errorf("%s: the room %s is not in the plan of the house", path, room)
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, spec := range file.Imports {
			name, _ := strconv.Unquote(spec.Path.Value)
			checkArrow(t, path, room, may, name)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

func checkArrow(t *testing.T, path, room, may, name string) {
	t.Helper()
	inCore := strings.HasPrefix(room, "core/") && room != "core/rigtest"
	own, ours := strings.CutPrefix(name, "largo/")
	switch {
	case ours && !strings.Contains(" "+may+" ", " "+own+" ") &&
		!(strings.Contains(may, "core/*") && strings.HasPrefix(own, "core/")):
		t.Errorf("%s: %s may not know of %s", path, room, own)
	case inCore && !ours && strings.Contains(name, ".") && !strings.HasPrefix(name, "gonum.org/"):
		t.Errorf("%s: the core knows only the standard library and gonum, not %s", path, name)
	}
	for _, p := range pure {
		// a date in a brief is checked as a date; no clock is read
		if inCore && name == p && !(p == "time" && strings.HasSuffix(path, "rig/brief.go")) {
			t.Errorf("%s: the core may not know of %s", path, name)
		}
	}
}
