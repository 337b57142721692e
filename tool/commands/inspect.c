/* rigpulse inspect: what each sensor says, with nothing driven. */
#include "tool/port_option.h"
#include "inspect.h"

#include "runtime/interrupt.h"
#include "tool/rigfile.h"

#include "analysis/inspect.h"
#include "runtime/door.h"
#include "explain/disassembly.h"
#include "explain/describe.h"

#include <jansson.h>
#include <math.h>
#include <stdio.h>
#include <unistd.h>

#define LONGEST_S    3600.0
#define DEFAULT_S    5.0
#define RANKED_LEAST 8.0 /* times its noise: what has moved by less has not moved */
#define G_TOLERANCE  0.05
#define SCALE_LEAST  0.8 /* of a rate that is to be believed, beside the tilt */

typedef struct inspection {
    const rgp_image_header *image;
    rgp_engine engine; /* on no port: it works out from the samples what becomes of them */
    void *memory;
    rgp_door_setup rest;
    rgp_door *door;
    uint32_t sensors, ticks;
    rgp_series *series;
    rgp_findings **findings;
    double *mean;     /* by slot, of usable values */
    GPtrArray *fused; /* of GArray of double, two for each 'fuse': the rate and the tilt */
    uint32_t *counted;
} inspection;

/* ---- taking readings ----------------------------------------------------------------------------- */

static void begin_fused(inspection *in)
{
    in->fused = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref);
    rgp_decoded step;
    for (rgp_steps all = rgp_steps_of(in->image); rgp_steps_next(&all, &step);) {
        for (int k = 0; k < 2 && step.op == RGP_OP_FUSE; k++) {
            g_ptr_array_add(in->fused, g_array_new(FALSE, FALSE, sizeof(double)));
        }
    }
}

static void begin_series(inspection *in)
{
    const rgp_image_sensor *sensor = rgp_image_at(in->image, RGP_SECTION_SENSORS);
    in->series = g_new0(rgp_series, in->sensors);
    in->findings = g_new0(rgp_findings *, in->sensors);
    for (uint32_t i = 0; i < in->sensors; i++) {
        const uint32_t slot = rgp_image_sensor_slot(in->image, i);
        in->series[i] = (rgp_series){.name = rgp_image_text(in->image, RGP_NAME_SLOT, slot, 0),
                                     .unit = rgp_image_unit(in->image, RGP_NAME_SLOT, slot, 0),
                                     .low = sensor[i].supervision.low,
                                     .high = sensor[i].supervision.high,
                                     .state = sensor[i].kind != RGP_SENSOR_NUMBER,
                                     .tick = in->image->tick_us / 1e6,
                                     .raw = g_array_new(FALSE, FALSE, sizeof(double)),
                                     .place = g_array_new(FALSE, FALSE, sizeof(uint32_t))};
    }
    in->mean = g_new0(double, in->image->slots);
    begin_fused(in);
    in->counted = g_new0(uint32_t, in->image->slots);
}

static void take_reading(inspection *in, uint32_t sensor, const rgp_sample *sample, const rgp_frame *frame)
{
    rgp_series *s = &in->series[sensor];
    rgp_engine_sense(&in->engine, (uint16_t)sensor, sample);
    s->ticks++;
    if (sample->same) {
        s->stood++;
        return;
    }
    if (!rgp_usable(sample->quality)) {
        s->missing++;
        return;
    }
    s->late += frame->time_us >= sample->time_us + in->image->tick_us;
    const double raw = sample->raw;
    const uint32_t tick = (uint32_t)frame->number;
    g_array_append_val(s->raw, raw);
    g_array_append_val(s->place, tick);
}

/* The values that go into each 'fuse', while both are usable. */
static void note_fused(inspection *in)
{
    rgp_decoded step;
    guint which = 0;
    for (rgp_steps all = rgp_steps_of(in->image); rgp_steps_next(&all, &step);) {
        if (step.op == RGP_OP_FUSE) {
            const rgp_reading rate = rgp_engine_value(&in->engine, step.in[0]);
            const rgp_reading tilt = rgp_engine_value(&in->engine, step.in[1]);
            for (guint k = 2 * which; k < 2 * which + 2 && rgp_usable(rate.quality) && rgp_usable(tilt.quality); k++) {
                const double value = (double)(k % 2 ? tilt : rate).value;
                g_array_append_val((GArray *)in->fused->pdata[k], value);
            }
            which++;
        }
    }
}

static bool take_frame(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    inspection *in = self;
    for (uint32_t i = 0; i < in->sensors; i++) {
        take_reading(in, i, &rgp_frame_sample(layout, frame)[i], frame);
    }
    rgp_engine_step(&in->engine, frame->time_us);
    for (uint32_t slot = 0; slot < in->image->slots; slot++) {
        const rgp_reading r = rgp_engine_value(&in->engine, slot);
        if (rgp_usable(r.quality)) {
            in->mean[slot] += ((double)r.value - in->mean[slot]) / ++in->counted[slot];
        }
    }
    note_fused(in);
    return true;
}

/* ---- in words ------------------------------------------------------------------------------------ */

static void print_amount(const char *label, double number, const char *unit)
{
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_describe_number(number, unit, text);
    printf("  %-22s %s\n", label, text->str);
}

static void print_figures(const rgp_series *s, const rgp_findings *f)
{
    const char *unit = s->unit;
    g_autoptr(GString) least = g_string_new(NULL), greatest = g_string_new(NULL);
    rgp_describe_number(f->least, "", least);
    rgp_describe_number(f->greatest, unit, greatest);
    print_amount("mean", f->mean, unit);
    printf("  %-22s %s to %s, of %d to %d\n", "range", least->str, greatest->str, s->low, s->high);
    printf("  %-22s %u, the smallest step %g\n", "different readings", f->values, f->step);
    print_amount("spread", f->spread, unit);
    print_amount("noise of one reading", f->noise, unit);
    print_amount("smallest real change", f->resolvable, unit);
    print_amount("drift a minute", f->drift, unit);
    if (f->hum > 0.0) {
        printf("  %-22s %.3g Hz\n", "hum", f->hum);
    }
    if (f->swing > 0.0) {
        printf("  %-22s %.3g Hz\n", "swing", f->swing);
    }
    printf("  %-22s %.4g ms", "from one to the next", 1e3 * f->pace * s->tick);
    if (f->longest_gap > f->pace) {
        printf(", at most %.4g ms", 1e3 * f->longest_gap * s->tick);
    }
    putchar('\n');
}

/* The share of the readings at a value. */
static double share_of(const rgp_series *s, int32_t value)
{
    guint count = 0;
    for (guint i = 0; i < s->raw->len; i++) {
        count += g_array_index(s->raw, double, i) == (double)value;
    }
    return (double)count / s->raw->len;
}

/* The share of the time for which a sensor of names said each of them. */
static void print_shares(const inspection *in, uint32_t sensor)
{
    const rgp_series *s = &in->series[sensor];
    for (int32_t value = s->low; value <= s->high; value++) {
        g_autoptr(GString) name = g_string_new(NULL);
        rgp_describe_value(in->image, rgp_image_sensor_slot(in->image, sensor), (float)value, name);
        printf("  %-22s %.3g %% of the time\n", name->str, 100.0 * share_of(s, value));
    }
    printf("  %-22s %u\n", "changes", in->findings[sensor]->changes);
}

static void print_sensor(const inspection *in, uint32_t sensor)
{
    const rgp_series *s = &in->series[sensor];
    const rgp_findings *f = in->findings[sensor];
    printf("\nsensor %s: %u readings in %g s\n", s->name, f->readings, s->ticks * s->tick);
    if (f->values > 0 && s->state) {
        print_shares(in, sensor);
    } else if (f->values > 0) {
        print_figures(s, f);
    }
    for (guint i = 0; i < f->advice->len; i++) {
        printf("  ! %s\n", (const char *)f->advice->pdata[i]);
    }
    if (f->advice->len == 0) {
        puts("  nothing suspicious");
    }
}

/* The offset that 'zero' has learned, or why it has none. */
static void print_zero(const inspection *in, const rgp_decoded *step)
{
    const rgp_zero_state *z = rgp_engine_state(&in->engine, step->state_offset);
    const rgp_zero_config *config = rgp_decoded_config(step);
    const char *name = rgp_image_text(in->image, RGP_NAME_SLOT, step->owner, 0);
    const char *unit = rgp_image_unit(in->image, RGP_NAME_SLOT, step->in[0], 0);
    switch (z->phase) {
    case RGP_ZERO_LEARNED:
        printf("zero in '%s': offset %.4g, known to %.2g; noise %.3g %s\n", name, (double)z->offset, (double)z->error,
               (double)z->noise, unit);
        break;
    case RGP_ZERO_GAVE_UP:
        printf("zero in '%s': gave up after %u tries: in the last it spread by %.3g (allowed %.3g) and drifted by %.3g "
               "(allowed %.3g) "
               "%s; was it moved?\n",
               name, z->tries, (double)z->noise, (double)config->spread, (double)z->moved, (double)config->drift, unit);
        break;
    default:
        printf("zero in '%s': not learned yet; it needs %.3g s of warm-up and %.3g s at rest, so look for longer\n",
               name, (double)config->warmup, (double)config->window);
    }
}

/* Gravity at rest, as the tilt sees it. */
static void print_mounting(const inspection *in, const rgp_decoded *step)
{
    float felt[3], g;
    for (int i = 0; i < 3; i++) {
        felt[i] = (float)in->mean[step->in[i]];
    }
    const int32_t up = rgp_mounting_up(felt, &g);
    const char *name = rgp_image_text(in->image, RGP_NAME_SLOT, step->out, 0);
    const char *unit = rgp_image_unit(in->image, RGP_NAME_SLOT, step->in[0], 0);
    if (up == 3) {
        printf("mounting, as '%s' sees it: z points up, as it should", name);
    } else if (up == 0) {
        printf("mounting, as '%s' sees it: no axis points up; it stands askew or is moving", name);
    } else {
        printf("mounting, as '%s' sees it: %s%c points up, not z: give '%s' the axes that fit, with a minus for one "
               "that points the "
               "other way",
               name, up < 0 ? "minus " : "", "xyz"[abs(up) - 1], name);
    }
    if (strcmp(unit, "g") == 0) {
        printf("; it feels %.3f g%s", (double)g,
               fabs((double)g - 1.0) > G_TOLERANCE ? ", which is not 1 g: check its scale" : "");
    }
    putchar('\n');
}

/* The rate's sign and scale, as the tilt sees them. */
static void print_fused(const inspection *in, const rgp_decoded *step, guint which)
{
    const rgp_fuse_config *config = rgp_decoded_config(step);
    const GArray *rate = in->fused->pdata[2 * which], *tilt = in->fused->pdata[2 * which + 1];
    const rgp_agreement a = rgp_rate_and_place(rate, tilt, in->image->tick_us / 1e6);
    const double times = a.times / (double)config->gain;
    const char *name = rgp_image_text(in->image, RGP_NAME_SLOT, step->out, 0);
    const char *of = rgp_image_text(in->image, RGP_NAME_SLOT, step->in[0], 0);
    if (rate->len == 0) {
        printf("fuse in '%s': no reading of the rate and the tilt could be used\n", name);
    } else if (!a.moved) {
        printf("fuse in '%s': it was not moved enough to hold the rate against the tilt\n", name);
    } else if (times < 0.0) {
        printf(
            "fuse in '%s': the rate CONTRADICTS the tilt, which goes back where the rate goes on: put a minus before "
            "'%s'\n",
            name, *of ? of : "the rate");
    } else {
        printf("fuse in '%s': the rate and the tilt agree; the tilt goes %.2f times as far%s\n", name, times,
               times < SCALE_LEAST || times > 1.0 / SCALE_LEAST ? ", so the scale of one of them is wrong" : "");
    }
}

static void print_stages(const inspection *in)
{
    rgp_decoded step;
    guint fused = 0;
    putchar('\n');
    for (rgp_steps all = rgp_steps_of(in->image); rgp_steps_next(&all, &step);) {
        if (step.op == RGP_OP_ZERO) {
            print_zero(in, &step);
        } else if (step.op == RGP_OP_TILT) {
            print_mounting(in, &step);
        } else if (step.op == RGP_OP_FUSE) {
            print_fused(in, &step, fused++);
        }
    }
}

static int by_movement(const void *a, const void *b, void *self)
{
    const inspection *in = self;
    const double x = in->findings[*(const uint32_t *)a]->moved, y = in->findings[*(const uint32_t *)b]->moved;
    return x > y ? -1 : x < y;
}

/* The sensor that moved most against its own noise; which is no proof that a person moved it. */
static void print_ranking(inspection *in)
{
    g_autofree uint32_t *order = g_new(uint32_t, in->sensors + 1);
    for (uint32_t i = 0; i < in->sensors; i++) {
        order[i] = i;
    }
    g_qsort_with_data(order, (gint)in->sensors, sizeof *order, by_movement, in);
    puts("what moved, the most first, in multiples of its noise; whether by you, only a terminal can tell, where it "
         "asks to "
         "move and to hold still");
    for (uint32_t i = 0; i < in->sensors; i++) {
        const rgp_findings *f = in->findings[order[i]];
        printf("  %-14s %8.1f%s\n", in->series[order[i]].name, f->moved,
               f->moved < RANKED_LEAST ? "   did not move" : "");
    }
}

static json_t *figures_as_json(const rgp_series *s, const rgp_findings *f)
{
    const struct {
        const char *name;
        double number;
    } figure[] = {{"mean", f->mean},
                  {"spread", f->spread},
                  {"least", f->least},
                  {"greatest", f->greatest},
                  {"noise", f->noise},
                  {"resolvable", f->resolvable},
                  {"step", f->step},
                  {"drift_per_minute", f->drift},
                  {"hum_hz", f->hum},
                  {"hum_height", f->hum_height},
                  {"swing_hz", f->swing},
                  {"swing_height", f->swing_height},
                  {"pace_s", f->pace * s->tick},
                  {"pinned", f->pinned},
                  {"still_s", f->still},
                  {"moved", f->moved}};
    json_t *all =
        json_pack("{s:i, s:i, s:i}", "values", (int)f->values, "spikes", (int)f->spikes, "events", (int)f->events);
    for (size_t i = 0; i < G_N_ELEMENTS(figure); i++) {
        json_object_set_new(all, figure[i].name, json_real(figure[i].number));
    }
    return all;
}

static json_t *shares_as_json(const inspection *in, uint32_t sensor)
{
    const rgp_series *s = &in->series[sensor];
    const rgp_findings *f = in->findings[sensor];
    json_t *shares = json_object();
    for (int32_t value = s->low; value <= s->high && s->raw->len > 0; value++) {
        g_autoptr(GString) name = g_string_new(NULL);
        rgp_describe_value(in->image, rgp_image_sensor_slot(in->image, sensor), (float)value, name);
        json_object_set_new(shares, name->str, json_real(share_of(s, value)));
    }
    return json_pack("{s:o, s:i, s:i, s:f}", "shares", shares, "changes", (int)f->changes, "bounced", (int)f->bounced,
                     "bounce_s", f->bounce);
}

static void print_json(const inspection *in)
{
    json_t *all = json_array();
    for (uint32_t i = 0; i < in->sensors; i++) {
        const rgp_series *s = &in->series[i];
        const rgp_findings *f = in->findings[i];
        json_t *advice = json_array();
        for (guint k = 0; k < f->advice->len; k++) {
            json_array_append_new(advice, json_string(f->advice->pdata[k]));
        }
        json_t *one = json_pack("{s:s, s:s, s:i, s:i, s:i}", "sensor", s->name, "unit", s->unit, "readings",
                                (int)f->readings, "missing", (int)s->missing, "late", (int)s->late);
        json_object_update_new(one, s->state ? shares_as_json(in, i) : figures_as_json(s, f));
        json_object_set_new(one, "advice", advice);
        json_array_append_new(all, one);
    }
    command_print_json(all);
}

/* ---- the command --------------------------------------------------------------------------------- */

static void end_inspection(inspection *in)
{
    for (uint32_t i = 0; in->series && i < in->sensors; i++) {
        g_array_unref(in->series[i].raw);
        g_array_unref(in->series[i].place);
        if (in->findings[i]) {
            rgp_findings_free(in->findings[i]);
        }
    }
    g_free(in->series);
    g_free(in->findings);
    g_free(in->mean);
    g_clear_pointer(&in->fused, g_ptr_array_unref);
    g_free(in->counted);
    g_free(in->memory);
    if (in->door) {
        rgp_door_end(in->door, NULL);
    }
}

static bool begin_inspection(const command *self, inspection *in, const rgp_rig *rig, bool fast, double seconds)
{
    g_autoptr(GError) error = NULL;
    in->image = rig->image;
    in->memory = g_malloc0(in->image->memory);
    in->sensors = rgp_image_count(in->image, RGP_SECTION_SENSORS);
    in->ticks = (uint32_t)MAX(1.0, seconds * 1e6 / in->image->tick_us + 0.5);
    if (rgp_engine_open(&in->engine, rig->image, rig->image_size, in->memory, in->image->memory) != RGP_OK) {
        return false;
    }
    rgp_engine_stop(&in->engine);
    begin_series(in);
    in->rest = (rgp_door_setup){
        .rig = rig, .seed = 1, .fast = fast, .stepped = true, .at_rest = true, .frame = take_frame, .self = in};
    interrupt_catch();
    in->door = rgp_door_open(&in->rest, &error);
    if (!in->door) {
        command_refuse(self, "%s", error->message);
    }
    return in->door != NULL;
}

static void report(inspection *in, bool json, bool which)
{
    for (uint32_t i = 0; i < in->sensors; i++) {
        in->findings[i] = rgp_inspect(&in->series[i]);
    }
    if (json) {
        print_json(in);
        return;
    }
    if (which) {
        print_ranking(in);
        return;
    }
    printf("rig %s: nothing was driven\n", rgp_image_text(in->image, RGP_NAME_RIG, 0, 0));
    for (uint32_t i = 0; i < in->sensors; i++) {
        print_sensor(in, i);
    }
    print_stages(in);
}

static int run_inspect(const command *self, int argc, char **argv)
{
    g_autofree char *length = NULL;
    gboolean fast = FALSE, json = FALSE, which = FALSE;
    double seconds = DEFAULT_S;
    const char *why;
    int status;
    const GOptionEntry entries[] = {
        {"for", 0, 0, G_OPTION_ARG_FILENAME, &length, "how long to look; 5 s if not said", "TIME"},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &fast, "in simulated time, as fast as the machine can", NULL},
        {"which", 0, 0, G_OPTION_ARG_NONE, &which,
         "which channel is this: says when to move one thing and when to hold it still, and tells which sensor answers",
         NULL},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a program to read", NULL},
        PORT_ENTRIES,
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    if (!command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        return status;
    }
    if (length && !rgp_quantity_parse(length, "s", &seconds, &why)) {
        return command_refuse(self, "--for %s: %s; write a time, for example --for 5s", length, why);
    }
    if (!(seconds > 0.0 && seconds <= LONGEST_S)) {
        return command_refuse(self, "--for %s: it must be above 0 and at most %g s", length, LONGEST_S);
    }
    rgp_rig *rig = rigfile_load(self, argv[1]);
    inspection in = {0};
    if (!rig || !rigfile_fits_port(self, rig, fast, false, false)) {
        rgp_rig_free(rig);
        return EXIT_USAGE;
    }
    if (which && !fast && !json && !length && isatty(STDIN_FILENO) && isatty(STDOUT_FILENO)) {
        status = inspect_which(self, rig);
        rgp_rig_free(rig);
        return status;
    }
    const bool begun = begin_inspection(self, &in, rig, fast, seconds);
    if (begun) {
        rgp_door_advance(in.door, (uint64_t)in.ticks * in.image->tick_us);
    }
    if (interrupt_asked()) {
        puts("interrupted; nothing was driven");
    } else if (begun) {
        report(&in, json, which);
    }
    end_inspection(&in);
    rgp_rig_free(rig);
    return begun ? EXIT_DONE : EXIT_USAGE;
}

const command command_inspect = {"inspect", "FILE",
                                 "says what each sensor's readings are like, and which stage would help",
                                 "rigpulse inspect examples/lamp.rig --for 10s --fast", run_inspect};
