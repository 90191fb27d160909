package match

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/words"
	"largo/store"
	"largo/web/kit"
)

// planView is the best choice of amplifiers, aim by aim.
type planView struct {
	Form    []kit.Field
	Loose   []string
	Keeps   []kit.Choice // outputs that may be kept as they are
	Columns []planColumn
	Rows    []planRow
	Amps    []ampView
	Left    []plan.Left
	Chosen  plan.Aim
	Query   string // the wishes, for links and the act
	Fields  []kit.Choice
	Effect  *kit.Changes
	Same    bool // the plan is how the rig is already
	None    []string
	GiveUp  []string
	WhyForm kit.Field
	Why     []string
	Unsure  string   // how far from proved
	Feeds   string   // which amplifier goes on which circuit
	Says    []string // what the plan depends on, by group and supply
	Covers  []string // which amplifiers left in the truck are spares for which
	Others  []otherPlan
}

// mostOthers is how many other plans stand beside the best of an aim.
const mostOthers = 3

// otherPlan is another sound plan beside the best, which can be taken too.
type otherPlan struct {
	Number int
	Text   string
	Covers []string
}

type planColumn struct {
	Aim, Href, Proved string
	Chosen            bool
}

type planRow struct {
	Name  string
	Cells []planCell
}

type planCell struct {
	Text string
	Best bool
}

// planPatience is how long a page waits for plans before it shows the best so
// far; the search can then be gone on with.
const planPatience = 900 * time.Millisecond

// planning is a problem with what it was made from.
type planning struct {
	problem plan.Problem
	index   *rig.Index
	left    []plan.Left
	wishes  plan.Wishes
	amps    []plan.Stocked
	busy    bool // another search for this job is under way
}

// planWishes reads the wishes of a plan from a form or a query.
func planWishes(r rig.Rig, f *kit.Form) plan.Wishes {
	w := plan.WishesOf(r)
	w.Mirrors = f.Text("mirrors") != "no"
	w.Spare = f.Number("spare", "amplifiers")
	margin := kit.Given(f, "margin", unit.InUnit(unit.ParseRatio, "%"))
	w.Margin = margin.Or(0)
	if w.Margin < 0 || w.Margin > 4 {
		f.Fault("margin", "A margin of %s cannot be right: give 0 %% to 400 %%.", f.Text("margin"))
	}
	if w.Spare < 0 || w.Spare > 20 {
		f.Fault("spare", "%d spares cannot be right: give 0 to 20.", w.Spare)
	}
	for part := range strings.SplitSeq(f.Text("circuits"), ",") {
		if strings.TrimSpace(part) == "" {
			continue
		}
		a, err := unit.ParseAmpere(part)
		if err != nil || a <= 0 || a > 500 {
			f.Fault("circuits", "%.20q is no current of a circuit; write them as 16 A, 16 A.", part)
			continue
		}
		w.Circuits = append(w.Circuits, a)
	}
	for _, kept := range f.Values("keep") {
		w.Keep = append(w.Keep, kit.ReadRef(kept))
	}
	return w
}

func planningOf(s *kit.Server, c *gin.Context, j store.Job, f *kit.Form) (planning, error) {
	held, err := s.Store.Stock(c)
	if err != nil {
		return planning{}, err
	}
	var hire []gear.Model
	if f.Text("hire") == "yes" {
		if hire, err = s.Store.Models(c); err != nil {
			return planning{}, err
		}
	}
	x := rig.NewIndex(j.Rig)
	outs := load.Outputs(x)
	pl := planning{index: x, wishes: planWishes(j.Rig, f)}
	var groups []plan.Group
	groups, pl.left = plan.GroupsOf(x, outs, pl.wishes)
	pl.amps = plan.AmpsOf(x, outs, held, hire, pl.wishes)
	pl.problem = plan.NewProblem(groups, pl.amps, pl.wishes)
	pl.problem.Leads = plan.SpareLeads(pl.index, held)
	return pl, nil
}

// settle takes the problem in which weaker amplifiers are allowed, where no choice
// gives all boxes what their policies ask.
func (r *planner) settle(ctx context.Context, pl *planning) {
	if a := r.solve(ctx, *pl, plan.Fewest, nil); a.X != nil || !a.Proved || pl.problem.Wishes.Weak {
		return
	}
	weaker := *pl
	weaker.problem = pl.problem.Weaker()
	if a := r.solve(ctx, weaker, plan.Fewest, nil); a.X != nil {
		*pl = weaker
	}
}

// solve finds the best plan for an aim, or gives what was found before.
func (r *planner) solve(ctx context.Context, pl planning, aim plan.Aim, tell func(plan.Progress)) plan.Answer {
	key := planKey(pl.problem.Key(aim))
	if a, have := r.found.Get(key); have && (a.Proved || tell == nil) {
		return a
	}
	a := pl.problem.Solve(ctx, aim, tell)
	r.found.Add(key, a)
	return a
}

// planner finds plans. What it remembers is no state that matters: whatever is
// gone is worked out anew.
type planner struct {
	looking searches // plans that are looked for
	// found: what was found for a problem and an aim, by the problem itself, so
	// that a search that was gone on with is not begun anew.
	found *lru.Cache[planKey, plan.Answer]
}

func newPlanner() *planner { return &planner{found: kit.Recent[planKey, plan.Answer](200)} }

// planKey tells a problem and an aim from all others.
type planKey [32]byte

// Limits of searches. A page waits for planPatience, a search that is gone on
// with for searchPatience; of those at most one runs for each job, and
// mostSearches in all.
const (
	searchPatience = 2 * time.Minute
	mostSearches   = 2
)

// searches are the jobs for which a plan is looked for right now.
type searches struct {
	mu  sync.Mutex
	now map[string]bool
}

// begin takes the place of a job's one search; false where it is taken, or too
// many run in all.
func (s *searches) begin(slug string) (done func(), ok bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.now[slug] || len(s.now) >= mostSearches {
		return nil, false
	}
	if s.now == nil {
		s.now = map[string]bool{}
	}
	s.now[slug] = true
	return func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		delete(s.now, slug)
	}, true
}

// shortly begins a search for a page: where another one runs it waits for its
// end, for as long as a page waits.
func (s *searches) shortly(ctx context.Context, slug string) (done func(), ok bool) {
	for {
		if done, ok := s.begin(slug); ok {
			return done, true
		}
		select {
		case <-ctx.Done():
			return func() {}, false
		case <-time.After(20 * time.Millisecond):
		}
	}
}

// plan shows the best plans side by side, and one of them in full.
func (r *planner) show(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Plan")
	if err != nil {
		s.Fail(c, err)
		return
	}
	f := &kit.Form{Gin: c, Query: c.Request.URL.Query()}
	pl, err := planningOf(s, c, p.Stored, f)
	if err != nil {
		s.Fail(c, err)
		return
	}
	p.Stage, p.Here = "", "/jobs/"+p.Job.Slug+"/match/plan"
	status := http.StatusOK
	if len(f.Faults) > 0 {
		status = http.StatusUnprocessableEntity
		p.Refused, p.Typed, p.Problem = &kit.Refused{Form: "plan", Faults: f.Faults}, f.Query, f.Problem()
	}
	v := r.view(c, p, pl, f)
	p.Body = v
	s.Render(c, status, "plan", p)
}

func (r *planner) view(c *gin.Context, p *kit.Page, pl planning, f *kit.Form) *planView {
	v := &planView{Left: pl.left, Query: wishesQuery(f).Encode(), Loose: p.Loose("plan", "margin", "spare", "circuits")}
	v.fillForm(p, pl, f)
	if len(pl.problem.Groups) == 0 {
		p.Verdict = "There is no box to plan for."
		return v
	}
	ctx, cancel := context.WithTimeout(c, planPatience)
	defer cancel()
	done, alone := r.looking.shortly(ctx, p.Job.Slug)
	defer done()
	pl.busy = !alone
	r.settle(ctx, &pl)
	var plans []plan.Plan
	for _, aim := range plan.Aims {
		if aim == plan.LeastHire && !slices.ContainsFunc(pl.amps, func(a plan.Stocked) bool { return a.Hire > 0 }) {
			continue
		}
		plans = append(plans, pl.problem.Plan(pl.index, r.solve(ctx, pl, aim, nil)))
	}
	chosen := 0
	for i, one := range plans {
		if string(one.Aim) == f.Text("aim") {
			chosen = i
		}
	}
	v.Chosen = plans[chosen].Aim
	v.compare(p, pl, plans, chosen)
	if plans[chosen].X == nil {
		v.none(c, p, pl, plans[chosen])
		return v
	}
	v.show(p, pl, plans[chosen])
	v.Says = plans[chosen].Says()
	v.Covers = plans[chosen].Covers()
	for i, a := range pl.problem.Others(ctx, plans[chosen].Answer, mostOthers) {
		other := pl.problem.Plan(pl.index, a)
		v.Others = append(v.Others, otherPlan{i + 1, other.Text(), other.Covers()})
	}
	v.fillWhy(ctx, p, pl, plans[chosen], f.Text("why"))
	return v
}

// wishesQuery is the query of the wishes without what is asked beside them.
func wishesQuery(f *kit.Form) url.Values {
	q := url.Values{}
	for _, name := range []string{"mirrors", "spare", "margin", "circuits", "hire", "keep"} {
		for _, v := range f.Values(name) {
			if v != "" {
				q.Add(name, v)
			}
		}
	}
	return q
}

func (v *planView) fillForm(p *kit.Page, pl planning, f *kit.Form) {
	asked := func(name, label, hint string) kit.Field { return p.Field("plan", name, label, f.Text(name), hint) }
	v.Form = []kit.Field{
		p.Choose("plan", "mirrors", "Left like right", f.Text("mirrors"), kit.Choice{Value: "", Label: "yes"},
			kit.Choice{Value: "no", Label: "need not be"}),
		p.Choose("plan", "hire", "Amplifiers", f.Text("hire"), kit.Choice{Value: "", Label: "our own"},
			kit.Choice{Value: "yes", Label: "our own and for hire"}),
		asked("margin", "Loads over the least by", "as 25 %"),
		asked("spare", "Spares of each model", "left in the truck"),
		asked("circuits", "Circuits carry", "as 16 A, 16 A; empty: not asked"),
	}
	for _, o := range survey.Of[match.Verdict](p.Report).Outputs {
		if o.Live && len(o.Boxes) > 0 {
			ref := kit.RefValue(o.At)
			v.Keeps = append(v.Keeps, kit.Choice{Value: ref, Label: o.At.Device + " " + strings.TrimPrefix(o.At.Port, "out ") +
				", " + strings.Join(load.Tags(o.Hung()), ", "), Chosen: slices.Contains(f.Values("keep"), ref)})
		}
	}
	for name, values := range wishesQuery(f) {
		for _, value := range values {
			v.Fields = append(v.Fields, kit.Choice{Label: name, Value: value})
		}
	}
	slices.SortStableFunc(v.Fields, func(a, b kit.Choice) int { return strings.Compare(a.Label+a.Value, b.Label+b.Value) })
}

// alike groups plans that are the same in every figure, in their order.
func alike(plans []plan.Plan) [][]int {
	var sets [][]int
next:
	for i, p := range plans {
		for k, set := range sets {
			first := plans[set[0]]
			if p.Totals == first.Totals && p.Proved == first.Proved && slices.Equal(p.X, first.X) {
				sets[k] = append(set, i)
				continue next
			}
		}
		sets = append(sets, []int{i})
	}
	return sets
}

// planFigures are the figures by which plans are compared: the less the
// better.
var planFigures = []struct {
	name string
	text func(plan.Totals) string
	of   func(plan.Totals) float64
}{
	{"Amplifiers", func(t plan.Totals) string { return strconv.Itoa(t.Amplifiers) },
		func(t plan.Totals) float64 { return float64(t.Amplifiers) }},
	{"Weight", func(t plan.Totals) string { return about(t.Weight.String(), t.Guessed > 0) },
		func(t plan.Totals) float64 { return float64(t.Weight) }},
	{"Current on music", func(t plan.Totals) string { return about(t.Draw.String(), t.Assumed) },
		func(t plan.Totals) float64 { return float64(t.Draw) }},
	{"Hire", func(t plan.Totals) string { return about(t.Hire.String(), t.Unpriced > 0) },
		func(t plan.Totals) float64 { return float64(t.Hire) }},
	{"Least power, times the rating", func(t plan.Totals) string { return ratioText(t.Ratio) },
		func(t plan.Totals) float64 { return -t.Ratio }},
	{"Bridged outputs", func(t plan.Totals) string { return strconv.Itoa(t.Bridged) },
		func(t plan.Totals) float64 { return float64(t.Bridged) }},
}

func ratioText(r float64) string {
	if math.IsInf(r, 0) {
		return "unknown"
	}
	return unit.Fixed(r, 2)
}

// compare puts the rig as it is and the plans side by side; plans that are the
// same stand in one column.
func (v *planView) compare(p *kit.Page, pl planning, plans []plan.Plan, chosen int) {
	if !slices.ContainsFunc(plans, func(one plan.Plan) bool { return one.X != nil }) {
		return // nothing to set beside it
	}
	sets := alike(plans)
	v.Columns = []planColumn{{Aim: "as it is"}}
	for _, set := range sets {
		v.Columns = append(v.Columns, v.column(p, plans, set, chosen))
	}
	now := plan.AsItIs(pl.index, survey.Of[match.Verdict](p.Report).Outputs, pl.wishes)
	for _, figure := range planFigures {
		row := planRow{Name: figure.name, Cells: []planCell{{Text: figure.text(now)}}}
		least, most := math.Inf(1), math.Inf(-1)
		for _, one := range plans {
			if one.X != nil {
				least, most = min(least, figure.of(one.Totals)), max(most, figure.of(one.Totals))
			}
		}
		if figure.name == "Hire" && most <= 0 {
			continue
		}
		for _, set := range sets {
			one := plans[set[0]]
			cell := planCell{Text: "none"}
			if one.X != nil {
				cell = planCell{figure.text(one.Totals), most > least+1e-6 && figure.of(one.Totals) < least+1e-6}
			}
			row.Cells = append(row.Cells, cell)
		}
		v.Rows = append(v.Rows, row)
	}
	row := planRow{Name: "It gives up", Cells: []planCell{{}}}
	for _, set := range sets {
		cell := planCell{}
		if plans[set[0]].X != nil {
			cell.Text = plan.GivesUp(plans[set[0]], plans)
		}
		row.Cells = append(row.Cells, cell)
	}
	v.Rows = append(v.Rows, row)
}

func (v *planView) column(p *kit.Page, plans []plan.Plan, set []int, chosen int) planColumn {
	one := plans[set[0]]
	var aims []string
	for _, i := range set {
		aims = append(aims, string(plans[i].Aim))
	}
	col := planColumn{Aim: strings.Join(aims, ", "), Chosen: slices.Contains(set, chosen), Proved: "proved"}
	if len(set) == len(plans) && len(set) > 1 {
		col.Aim = "best by every aim"
	}
	if !one.Proved {
		col.Proved = "not proved"
		if one.X != nil && one.Gap < 10 {
			col.Proved = fmt.Sprintf("within %.1f %%", 100*one.Gap)
		}
	}
	q, _ := url.ParseQuery(v.Query)
	q.Set("aim", string(one.Aim))
	col.Href = p.Here + "?" + q.Encode()
	return col
}

func about(text string, guessed bool) string {
	if guessed {
		return "about " + text
	}
	return text
}

// show draws one plan and tells what it would change.
func (v *planView) show(p *kit.Page, pl planning, shown plan.Plan) {
	t := shown.Totals
	proved := "proved."
	if !shown.Proved {
		proved = "not proved yet."
		v.Unsure = words.Capital(shown.Off()) + "."
		if pl.busy {
			v.Unsure += " Another search is under way on this machine, so this one was not begun; load the page again when " +
				"it has ended."
		}
	}
	p.Verdict = fmt.Sprintf("%s and %s for %d boxes, %s: %s", words.Spell(t.Amplifiers, "amplifier", "amplifiers"),
		t.Weight, boxesOf(pl.problem), shown.Aim, proved)
	v.Feeds = circuitsText(shown)
	next, err := rig.Apply(p.Rig(), shown.Edit(pl.index))
	if err != nil {
		v.None = append(v.None, err.Error())
		return
	}
	after := survey.Survey(next)
	effect := kit.Changed(survey.Compare(p.Report, after), "", kit.MostChanges)
	v.Effect = &effect
	v.Same = len(effect.Gone)+len(effect.New)+len(effect.Figures) == 0
	planned := *p
	planned.Report = after
	for _, a := range shown.Amps {
		d, ok := next.Device(a.Tag)
		if m, has := next.Model(d.Model); ok && has {
			v.Amps = append(v.Amps, ampOf(&planned, &d, m))
		}
	}
}

// circuitsText tells which amplifier goes on which circuit.
func circuitsText(shown plan.Plan) string {
	circuits := shown.Problem.Wishes.Circuits
	if len(circuits) == 0 {
		return ""
	}
	on, fit := shown.OnCircuits()
	switch fit {
	case plan.FitsNot:
		return "All together they draw less than the circuits carry, but there is no way to put each on one circuit: ask " +
			"for one more, or for other circuits."
	case plan.FitOpen:
		return "Whether each can go on one circuit is not known: there are too many ways to try them all."
	}
	var parts []string
	for c, a := range circuits {
		var tags []string
		for i, amp := range shown.Amps {
			if on[i] == c {
				tags = append(tags, amp.Tag)
			}
		}
		if len(tags) > 0 {
			parts = append(parts, fmt.Sprintf("circuit %d of %s: %s", c+1, a, strings.Join(tags, ", ")))
		}
	}
	return "On ordinary music, " + strings.Join(parts, "; ") + "."
}

// boxesOf counts whole boxes: one of several ways is in a group for each.
func boxesOf(p plan.Problem) int {
	tags := map[string]bool{}
	for _, g := range p.Groups {
		for _, tag := range slices.Concat(g.Boxes, g.Mirror) {
			tags[tag] = true
		}
	}
	return len(tags)
}

// none tells why there is no plan, and which wishes to give up.
func (v *planView) none(ctx context.Context, p *kit.Page, pl planning, found plan.Plan) {
	if !found.Proved {
		p.Verdict = "No plan was found yet, and it is not proved that there is none."
		return
	}
	p.Verdict = "No choice of these amplifiers drives all boxes as wished; this is proved."
	v.None = pl.problem.Unsuited()
	limited, cancel := context.WithTimeout(ctx, planPatience)
	defer cancel()
	outs := load.Outputs(pl.index)
	for _, set := range plan.GiveUp(limited, pl.wishes, pl.amps, func(w plan.Wishes, amps []plan.Stocked) plan.Problem {
		groups, _ := plan.GroupsOf(pl.index, outs, w)
		return plan.NewProblem(groups, amps, w)
	}) {
		v.GiveUp = append(v.GiveUp, strings.Join(set, ", and "))
	}
}

// fillWhy answers why an amplifier is not used.
func (v *planView) fillWhy(ctx context.Context, p *kit.Page, pl planning, shown plan.Plan, asked string) {
	list := []kit.Choice{{Label: "choose an amplifier"}}
	for m, a := range pl.amps {
		for _, mode := range []gear.Mode{gear.Separate, gear.Bridged} {
			label := a.Model.Title()
			if mode == gear.Bridged {
				label += ", bridged"
			}
			if a.Hire > 0 {
				label += " (for hire)"
			}
			value := fmt.Sprintf("%d %s", m, mode)
			list = append(list, kit.Choice{Value: value, Label: label})
			if value != asked {
				continue
			}
			if v.Why = pl.problem.Why(ctx, shown.Answer, m, mode); v.Why == nil {
				v.Why = []string{"This plan uses it."}
			}
		}
	}
	v.WhyForm = p.Choose("why", "why", "Why not", asked, list...)
}

// takePlan makes the plan so, as one edit.
func (r *planner) take(s *kit.Server, c *gin.Context) {
	j, err := s.Store.Job(c, c.Param("job"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	f, err := kit.ReadForm(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	pl, err := planningOf(s, c, j, f)
	if err != nil {
		s.Fail(c, err)
		return
	}
	ctx, cancel := context.WithTimeout(c, planPatience)
	defer cancel()
	done, _ := r.looking.shortly(ctx, j.Slug)
	defer done()
	s.Edit(c, finding.Match, "plan", func(_ rig.Rig, ef *kit.Form) rig.Edit {
		if !slices.Contains(plan.Aims, plan.Aim(f.Text("aim"))) {
			ef.Fault("aim", "%.40q is no aim of a plan.", f.Text("aim"))
			return nil
		}
		r.settle(ctx, &pl)
		chosen := pl.problem.Plan(pl.index, r.solve(ctx, pl, plan.Aim(f.Text("aim")), nil))
		if n := f.Number("other", "plans"); n > 0 {
			others := pl.problem.Others(ctx, chosen.Answer, mostOthers)
			if n > len(others) {
				ef.Fault("", "There is no such plan any more; plan again.")
				return nil
			}
			chosen = pl.problem.Plan(pl.index, others[n-1])
		}
		if chosen.X == nil || len(f.Faults) > 0 {
			ef.Fault("", "There is no such plan any more; plan again.")
			return nil
		}
		return chosen.Edit(pl.index)
	})
}

// planProgress goes on with a search and tells how far it has come, until it
// is proved or whoever looks on goes away; the best so far is kept.
func (r *planner) progress(s *kit.Server, c *gin.Context) {
	j, err := s.Store.Job(c, c.Param("job"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	f := &kit.Form{Gin: c, Query: c.Request.URL.Query()}
	pl, err := planningOf(s, c, j, f)
	if err != nil {
		s.Fail(c, err)
		return
	}
	aim := plan.Aim(f.Text("aim"))
	if !slices.Contains(plan.Aims, aim) || len(f.Faults) > 0 {
		s.Fail(c, fault.At("aim", "%.40q is no aim of a plan, or a wish cannot be read.", f.Text("aim")))
		return
	}
	out := s.BeginStream(c)
	if c.Request.Method == http.MethodHead {
		return
	}
	done, ok := r.looking.begin(j.Slug)
	if !ok {
		out.Send("busy", gin.H{"says": "Another search is under way, and only one runs for a job at a time. Try again " +
			"when it has ended."})
		return
	}
	defer done()
	ctx, cancel := context.WithTimeout(c.Request.Context(), searchPatience)
	defer cancel()
	go func() {
		select {
		case <-s.Ending:
			cancel()
		case <-ctx.Done():
		}
	}()
	last := time.Time{}
	a := r.solve(ctx, pl, aim, func(p plan.Progress) {
		if time.Since(last) < 150*time.Millisecond {
			return
		}
		last = time.Now()
		if out.Send("progress", gin.H{"amplifiers": p.Best, "nodes": p.Nodes, "gap": min(p.Gap, 10)}); out.Err != nil {
			cancel()
		}
	})
	if errors.Is(ctx.Err(), context.DeadlineExceeded) && !a.Proved {
		a.Spent = true
		r.found.Add(planKey(pl.problem.Key(aim)), a)
	}
	out.Send("done", gin.H{"proved": a.Proved, "nodes": a.Nodes, "full": a.Full,
		"patience": errors.Is(ctx.Err(), context.DeadlineExceeded)})
}
