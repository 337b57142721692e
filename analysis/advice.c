/* Advice from what an inspection has found: which stage would help against it, and what is suspicious. */
#include "advice.h"

#include "explain/describe.h"
#include "rigpulse/condition/despike.h"

#include <math.h>

G_GNUC_PRINTF(2, 3) static void advise(rgp_findings *f, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_ptr_array_add(f->advice, g_strdup_vprintf(format, arguments));
    va_end(arguments);
}

static char *amount(const rgp_series *s, double number)
{
    GString *text = g_string_new(NULL);
    rgp_describe_number(number, s->unit, text);
    return g_string_free(text, FALSE);
}

static char *duration(double seconds)
{
    return seconds < 1.0 ? g_strdup_printf("%.0f ms", 1e3 * seconds) : g_strdup_printf("%.1f s", seconds);
}

static void advise_on_absence(const rgp_series *s, rgp_findings *f)
{
    if (f->readings == 0) {
        advise(f, "it never answered: is it connected?");
    } else if (s->missing) {
        advise(f,
               "%u of %u readings are missing: 'hold 300 ms' bridges single ones; 'fault after 1 s' in its line stops "
               "what needs it when it stays away",
               s->missing, s->ticks);
    }
    if (f->longest_gap > RGP_GAP_FROM * f->pace) {
        g_autofree char *gap = duration(f->longest_gap * s->tick), *twice = duration(2.0 * f->pace * s->tick);
        advise(f, "for up to %s no newer reading came: 'every %s' in its line sees it missing", gap, twice);
    }
    if (s->late) {
        advise(f, "%u of %u readings are older than a tick: say 'every TIME' in its line, so that late ones are seen",
               s->late, s->ticks);
    }
}

static void advise_on_rails(const rgp_series *s, rgp_findings *f)
{
    if (f->pinned > 0.02) {
        advise(f,
               "%.0f %% of the readings are at the end of the range: it is wired wrongly, broken, or the range is too "
               "small; 'pinned' in its line makes such readings bad",
               100.0 * f->pinned);
    }
    if (f->values == 1 && f->pinned < 1.0) {
        advise(f,
               "not one step of change in %.3g s: it may be stuck or not connected; 'stuck 2 s' in its line makes that "
               "bad",
               f->still);
    } else if (f->still > 0.2 * s->ticks * s->tick && f->noise >= 1.0) {
        advise(f,
               "it stood still for %.3g s and moved at other times: it may get stuck; 'stuck %.2g s' in its line sees "
               "that",
               f->still, fmax(0.1 * f->still, 20.0 * s->tick));
    }
    if (f->values > 1 && f->values < 6 && f->noise < 0.5 * f->step) {
        g_autofree char *step = amount(s, f->step);
        advise(f, "only %u different readings, %s apart: its resolution is coarse for what it sees here", f->values,
               step);
    }
}

/* Stages count ticks, and a slow sensor's reading stays for `pace` of them. */
static void advise_on_spikes(rgp_findings *f)
{
    if (f->spikes) {
        const double every = f->readings / f->pace / f->spikes;
        const int window = 2 * (int)ceil(f->pace * (every > 10.0 ? 1.0 : 2.0)) + 1;
        advise(f,
               window <= RGP_DESPIKE_WINDOW_MAX ? "one spike in %.0f readings: 'despike %d'"
                                                : "one spike in %.0f readings: 'despike' needs a longer tick",
               every, window);
    }
    if (f->events) {
        g_autofree char *longest = duration(f->longest);
        advise(f,
               "%u times something stands out, for up to %s: events, as of a clap or a knock, and not spikes, which "
               "last for "
               "one reading; 'despike' would take them away",
               f->events, longest);
    }
}

static void advise_on_hum(const rgp_series *s, rgp_findings *f)
{
    if (f->hum > 0.0) {
        const double period = 1.0 / (f->hum * s->tick);
        int readings = 2;
        for (int n = 2; n <= 64; n++) { /* the window that holds the nearest to whole periods */
            readings = fabs(n / period - round(n / period)) * readings <
                                   fabs(readings / period - round(readings / period)) * n - 1e-9 &&
                               n >= period
                           ? n
                           : readings;
        }
        readings = MAX(readings, (int)lround(period));
        g_autofree char *height = amount(s, f->hum_height);
        advise(f, "a hum at %.3g Hz, %s high: 'average %d' takes whole periods of it", f->hum, height,
               MIN(MAX(readings, 2), 64));
    }
    if (f->swing > 0.0) {
        g_autofree char *height = amount(s, f->swing_height);
        advise(f,
               "it swings at %.3g Hz, %s high: the thing itself, as in waves, or a loop; look again with it held still",
               f->swing, height);
    }
}

static void advise_on_noise(const rgp_series *s, rgp_findings *f)
{
    if (f->noise > 2.0 * fmax(f->step, 1.0) && f->hum_height < f->noise) {
        g_autofree char *noise = amount(s, f->noise);
        /* a first-order low pass leaves sqrt(dt / 2T) of independent noise */
        g_autofree char *shown = duration(12.5 * s->tick * f->pace);
        advise(f, "noise of %s from reading to reading: 'smooth %s' leaves a fifth of it", noise, shown);
    }
}

static void advise_on_pace(const rgp_series *s, rgp_findings *f)
{
    if (f->pace > 1.0 && s->stood == 0) {
        g_autofree char *each = duration(f->pace * s->tick), *twice = duration(2.0 * f->pace * s->tick);
        advise(f,
               "it delivers about every %s, and the tick is %g ms, but its port does not tell which readings are new: "
               "stages that count readings see each %.3g times; a tick of %s would do, and 'every %s' in its line sees "
               "one missing",
               each, 1e3 * s->tick, f->pace, each, twice);
    }
}

static void advise_on_bounce(const rgp_series *s, rgp_findings *f)
{
    if (f->bounced > 1 && 3 * f->bounced >= f->changes) {
        const double tick_ms = 1e3 * s->tick, time = tick_ms * ceil(1.5e3 * f->bounce / tick_ms);
        advise(f,
               "its contact bounces: %u of %u changes come with more of them, for up to %.3g ms; 'for %g ms' behind a "
               "condition, or 'least %g ms' in what measures it, passes over that",
               f->bounced, f->changes, 1e3 * f->bounce, time, time);
    }
}

static void advise_on_drift(const rgp_series *s, rgp_findings *f)
{
    const double moved = fabs(f->drift) / 60.0 * s->ticks * s->tick;
    if (fabs(f->drift) > 5.0 * f->drift_error && moved > 2.0 * f->noise && f->moved > 8.0) {
        g_autofree char *text = amount(s, f->drift);
        advise(f,
               "it changes by %s a minute: look again with the device at rest; if it still does, it is warming up, and "
               "'zero' needs "
               "a 'warmup'",
               text);
    }
}

void rgp_advise(const rgp_series *s, rgp_findings *f)
{
    advise_on_absence(s, f);
    if (f->readings < RGP_INSPECT_LEAST) {
        if (f->readings > 0) {
            advise(f, "only %u reading%s: look for longer", f->readings, f->readings == 1 ? "" : "s");
        }
    } else if (s->state) {
        advise_on_bounce(s, f);
    } else {
        advise_on_pace(s, f);
        advise_on_rails(s, f);
        advise_on_spikes(f);
        advise_on_hum(s, f);
        advise_on_noise(s, f);
        advise_on_drift(s, f);
    }
}
