package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"

	"largo/core/unit"
)

// MeterReading is what flowed through a part of the supply at a time; what was not read is not
// known.
type MeterReading struct {
	Part   string
	At     time.Time
	Volts  unit.Given[unit.Volt]
	Amps   unit.Given[unit.Ampere]
	Hertz  unit.Given[unit.Hertz]
	Author string
}

// Meter is the address at which the circuits of a job are read.
type Meter struct {
	Slug, Address string
}

// jobID finds the row of a job that is not deleted.
func jobID(ctx context.Context, tx *sqlx.Tx, slug string) (id int64, err error) {
	return id, tx.GetContext(ctx, &id, `SELECT id FROM jobs WHERE slug = $1 AND deleted_at IS NULL`, slug)
}

// SetMeter has the circuits of a job read at an address from now on; none: no longer.
func (s *Store) SetMeter(ctx context.Context, c Command, slug, address string) error {
	c.Act = "watch " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		job, err := jobID(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		if address == "" {
			_, err = tx.ExecContext(ctx, `DELETE FROM meters WHERE job_id = $1`, job)
			return "", err
		}
		_, err = tx.ExecContext(ctx, `
INSERT INTO meters (job_id, address, author) VALUES ($1, $2, $3)
	ON CONFLICT (job_id) DO UPDATE SET address = excluded.address, author = excluded.author, at = clock_timestamp()`,
			job, address, c.Author)
		return "", err
	})
	return err
}

// mostWatched is for how long a meter is asked after it was set.
const mostWatched = "24 hours"

// Meters are those that are to be asked now.
func (s *Store) Meters(ctx context.Context) (list []Meter, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return list, known(s.db.SelectContext(ctx, &list, `
SELECT j.slug, m.address FROM meters m JOIN jobs j ON j.id = m.job_id
	WHERE j.deleted_at IS NULL AND m.at > now() - $1::interval ORDER BY j.id`, mostWatched))
}

// MeterOf is the address at which the circuits of a job are read; "" for none.
func (s *Store) MeterOf(ctx context.Context, slug string) (address string, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return address, known(s.db.GetContext(ctx, &address, `
SELECT coalesce(max(m.address), '') FROM meters m JOIN jobs j ON j.id = m.job_id
	WHERE j.slug = $1 AND m.at > now() - $2::interval`, slug, mostWatched))
}

// AddReadings keeps readings of a job's circuits: of two at one moment the first stays.
func (s *Store) AddReadings(ctx context.Context, c Command, slug string, list []MeterReading) error {
	c.Act = "read " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		job, err := jobID(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		for _, r := range list {
			if _, err := tx.ExecContext(ctx, `
INSERT INTO meter_readings (job_id, part, at, volts, amps, hertz, author) VALUES ($1, $2, $3, $4, $5, $6, $7)
	ON CONFLICT DO NOTHING`, job, r.Part, r.At, number(r.Volts), number(r.Amps), number(r.Hertz), c.Author); err != nil {
				return "", err
			}
		}
		return "", nil
	})
	return err
}

// number is a figure as a column holds it; nil where it is not known.
func number[T unit.Quantity](g unit.Given[T]) *float64 {
	v, known := g.Get()
	if !known {
		return nil
	}
	f := float64(v)
	return &f
}

func given[T unit.Quantity](f *float64) unit.Given[T] {
	if f == nil {
		return unit.Given[T]{}
	}
	return unit.Of(T(*f))
}

// Readings are those of a job's circuits since a time, the oldest first.
func (s *Store) Readings(ctx context.Context, slug string, since time.Time) ([]MeterReading, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []struct {
		Part               string
		At                 time.Time
		Volts, Amps, Hertz *float64
		Author             string
	}
	if err := s.db.SelectContext(ctx, &rows, `
SELECT r.part, r.at, r.volts, r.amps, r.hertz, r.author FROM meter_readings r JOIN jobs j ON j.id = r.job_id
	WHERE j.slug = $1 AND r.at >= $2 ORDER BY r.at, r.part`, slug, since); err != nil {
		return nil, known(err)
	}
	list := make([]MeterReading, len(rows))
	for i, r := range rows {
		list[i] = MeterReading{r.Part, r.At, given[unit.Volt](r.Volts), given[unit.Ampere](r.Amps),
			given[unit.Hertz](r.Hertz), r.Author}
	}
	return list, nil
}

// AddSupplyPhoto keeps a photograph of a part of a job's supply.
func (s *Store) AddSupplyPhoto(ctx context.Context, c Command, slug, part string, jpeg []byte) error {
	c.Act = "photograph " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		job, err := jobID(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		photo, err := keepPhoto(ctx, tx, c, jpeg)
		if err != nil {
			return "", err
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO supply_photos (job_id, part, photo) VALUES ($1, $2, $3)`, job, part, photo)
		return "", err
	})
	return err
}

// SupplyPhoto is a photograph of a part of a supply.
type SupplyPhoto struct {
	Part, Author string
	Photo        int64
	At           time.Time
	Slug, Date   string // of the job at which it was taken
}

// SupplyPhotos are those of this place: of the job, and of the jobs at the same place before it,
// the newest first.
func (s *Store) SupplyPhotos(ctx context.Context, slug string) (list []SupplyPhoto, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return list, known(s.db.SelectContext(ctx, &list, `
SELECT s.part, p.author, s.photo, p.at, b.slug, coalesce(b.on_date::text, '') AS date
	FROM jobs j JOIN jobs b ON b.id = j.id
		OR lower(trim(b.place)) = lower(trim(j.place)) AND trim(j.place) <> '' AND b.on_date < j.on_date
	JOIN supply_photos s ON s.job_id = b.id JOIN photos p ON p.id = s.photo
	WHERE j.slug = $1 AND b.deleted_at IS NULL ORDER BY s.photo DESC LIMIT 200`, slug))
}
