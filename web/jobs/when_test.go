package jobs

import (
	"testing"
	"time"
)

func TestWhen(t *testing.T) {
	now := time.Date(2027, 6, 11, 23, 59, 0, 0, time.FixedZone("east", 3*3600))
	for date, want := range map[string]string{"2027-06-10": "Past", "2027-06-11": "Today", "2027-06-12": "Tomorrow",
		"2027-06-18": "Within a week", "2027-06-19": "Within a month", "2027-07-12": "Within a month", "2027-07-13": "Later",
		"": "Without a date"} {
		if got := when(date, now); got != want {
			t.Errorf("%q: %s, want %s", date, got, want)
		}
	}
}
