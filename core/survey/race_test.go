//go:build race

package survey_test

// Under the race detector, which is there for stages that run at once and is some
// ten times slower, few of the random rigs are enough.
const everyRig = 20
