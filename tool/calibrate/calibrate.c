/* rigpulse calibrate: what a sensor says in known conditions becomes numbers in the rig file. */
#include "tool/port_option.h"
#include "calibrate.h"

#include "tool/picture.h"

#include "runtime/interrupt.h"
#include "tool/rewrite.h"
#include "tool/rigfile.h"
#include "trial.h"

#include "runtime/ports.h"
#include "rigpulse/image.h"

#include <math.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define WINDOW_S       1.0
#define BANDS_WINDOW_S 3.0
#define SPAN_WINDOW_S  10.0
#define READINGS_LEAST 50.0
#define WINDOW_LONGEST 3600.0

/* ---- options --------------------------------------------------------------------------------------- */

static const char *contradiction(const calibrate_options *o)
{
    const int sources = (o->point != NULL) + (o->points != NULL) + (o->span != NULL) + (o->rezero != NULL);
    if (o->undo && (sources > 0 || o->line || o->recording || o->dry_run)) {
        return "--undo stands alone";
    }
    if (sources > 1) {
        return "take one of --point, --points, --span and --rezero";
    }
    if (o->points && o->recording) {
        return "--points brings its own readings; leave --from out";
    }
    if (o->place && (o->recording || o->points || o->span)) {
        return "--place moves the simulated mechanism before each --point; here there is none";
    }
    if (o->json && sources == 0 && !o->recording) {
        return "--json needs points without a dialogue: --point, --points, --span, --rezero or --from";
    }
    if (o->output && !picture_is_named(o->output)) {
        return "the picture's name must end with .png or .svg";
    }
    return NULL;
}

static bool parse_options(calibration *c)
{
    const calibrate_options *o = c->options;
    const char *wrong = contradiction(o), *why;
    if (wrong) {
        command_refuse(c->self, "%s", wrong);
        return false;
    }
    c->window = 0.0;
    if (o->window &&
        (!rgp_quantity_parse(o->window, "s", &c->window, &why) || !(c->window > 0.0) || c->window > WINDOW_LONGEST)) {
        command_refuse(c->self, "--window %s: write a time above 0 and up to %g s, for example --window 2s", o->window,
                       WINDOW_LONGEST);
        return false;
    }
    return command_seed(c->self, o->seed, &c->setup.seed);
}

/* ---- what is to be measured ------------------------------------------------------------------------ */

/* Of a new line: as --unit says, or as the first known value is written. */
static char *known_unit(const calibrate_options *o)
{
    const char *first = o->rezero ? o->rezero : o->point ? o->point[0] : "";
    char *end;
    g_ascii_strtod(first, &end);
    if (o->unit || end == first) {
        return g_strdup(o->unit);
    }
    g_autofree char *text = g_strndup(end, strcspn(end, "@="));
    return g_strdup(g_strstrip(text));
}

static bool find_what(calibration *c)
{
    const char *why = NULL;
    g_autofree char *in = known_unit(c->options);
    if (c->options->line) {
        c->template_rig =
            rgp_rig_line_template(c->file, c->name, c->options->line, in, rgp_ports_catalog(), &c->what, &why);
        if (!c->template_rig) {
            command_refuse(c->self, "--as: %s%s", why, in || !strstr(why, "which unit") ? "" : "; say it with --unit");
        }
        return c->template_rig != NULL;
    }
    if (!rgp_rig_calibration(c->file, c->name, &c->what, &why)) {
        command_refuse(c->self, "%s: %s; or write a new line with --as, as in --as 'level | table'", c->path, why);
        return false;
    }
    return true;
}

static bool begin_calibration(calibration *c)
{
    g_autoptr(GError) error = NULL;
    const calibrate_options *o = c->options;
    c->setup.rig = calibrate_rig(c);
    c->setup.what = &c->what;
    c->setup.fast = o->fast;
    c->setup.recording = o->recording;
    if (c->window <= 0.0) {
        const double tick = ((const rgp_image_header *)c->file->image)->tick_us / 1e6;
        c->window = o->span ? SPAN_WINDOW_S : calibrate_is_bands(c) ? BANDS_WINDOW_S : WINDOW_S;
        c->window = fmax(c->window, READINGS_LEAST * tick);
    }
    c->capture_session = capture_session_new(&c->setup, &error);
    if (!c->capture_session) {
        command_refuse(c->self, "%s", error->message);
    }
    return c->capture_session != NULL;
}

/* ---- the end of it --------------------------------------------------------------------------------- */

static int write_result(const calibration *c)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *what = g_strdup_printf("calibrate %s", c->name);
    if (strcmp(c->file->source, c->edited) == 0) {
        return EXIT_DONE;
    }
    if (!rewrite_file(c->path, c->file->source, c->edited, what, &error)) {
        return command_refuse(c->self, "%s; what would have been written stands above", error->message);
    }
    if (!c->options->json) {
        printf("%s is written; 'rigpulse calibrate %s --undo' takes it back\n", c->path, c->path);
    }
    return EXIT_DONE;
}

static int leave(const calibration *c)
{
    printf("\nleft; %s is as it was\n", c->path);
    return EXIT_DONE;
}

static bool has_points(const calibrate_options *o)
{
    return o->point || o->points || o->recording || o->span || o->rezero;
}

static int calibrate(calibration *c)
{
    g_autofree char *why = NULL;
    if (!begin_calibration(c)) {
        return EXIT_USAGE;
    }
    if (!has_points(c->options)) {
        const bool result = calibrate_talk(c);
        if (!result) {
            return leave(c);
        }
        if (c->options->dry_run) {
            fputs(c->said->str, stdout);
        }
    } else {
        const bool taken = calibrate_take_points(c);
        if (interrupt_asked()) {
            return leave(c);
        }
        if (!taken) {
            return EXIT_USAGE;
        }
        if (!calibrate_conclude(c, &why)) {
            g_autoptr(GString) list = g_string_new(NULL);
            calibrate_list(c, list);
            fputs(list->str, stderr);
            return command_refuse(c->self, "%s; %s is as it was", why, c->path);
        }
        fputs(c->said->str, stdout);
    }
    return c->options->dry_run ? EXIT_DONE : write_result(c);
}

static void end_calibration(calibration *c)
{
    while (c->point->len > 0) {
        calibrate_drop_point(c, c->point->len - 1);
    }
    g_array_unref(c->point);
    g_string_free(c->said, TRUE);
    g_free(c->edited);
    capture_session_free(c->capture_session);
    rgp_rig_free(c->template_rig);
    rgp_rig_free(c->file);
}

static void free_options(calibrate_options *o)
{
    char *const texts[] = {o->line, o->unit,   o->points, o->recording, o->window,
                           o->span, o->rezero, o->output, o->seed,      o->power};
    for (size_t i = 0; i < G_N_ELEMENTS(texts); i++) {
        g_free(texts[i]);
    }
    g_strfreev(o->point);
    g_strfreev(o->trial);
}

static int try_actuator(const calibration *c)
{
    const calibrate_options *o = c->options;
    if (has_points(o) || o->line || o->place || o->window || o->output || o->json) {
        return command_refuse(c->self,
                              "'%s' is an actuator: what it gives is measured with --trial TIME=AMOUNT, or in a "
                              "dialogue",
                              c->name);
    }
    const trial_options trial = {o->power, o->unit, o->trial, o->dry_run, o->fast, c->setup.seed};
    return trial_run(c->self, &trial, c->path, c->file, c->name);
}

static int run_calibrate(const command *self, int argc, char **argv)
{
    calibrate_options o = {0};
    const GOptionEntry entries[] = {
        {"as", 0, 0, G_OPTION_ARG_FILENAME, &o.line,
         "write a new line: its expression, with the stage that is measured left without settings", "EXPRESSION"},
        {"unit", 0, 0, G_OPTION_ARG_FILENAME, &o.unit,
         "with --as: that of the known values; of an actuator: of what it gives", "UNIT"},
        {"point", 'p', 0, G_OPTION_ARG_FILENAME_ARRAY, &o.point,
         "capture a known value ('6cm') or condition ('misty'), now, at a time or at a mark of a recording",
         "VALUE[@WHEN]"},
        {"points", 0, 0, G_OPTION_ARG_FILENAME, &o.points,
         "read pairs 'READ, KNOWN' from a CSV file, READ being the sensor's own reading; - is standard input", "FILE"},
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &o.recording, "take the readings from a recording; its marks are points",
         "RECORDING"},
        {"span", 0, 0, G_OPTION_ARG_FILENAME, &o.span,
         "move it through its whole travel: what its least and its greatest reading are", "LOW..HIGH"},
        {"rezero", 0, 0, G_OPTION_ARG_FILENAME, &o.rezero,
         "capture one known value and move the whole calibration to it, its slope kept", "VALUE"},
        {"place", 0, 0, G_OPTION_ARG_NONE, &o.place,
         "simulated port: a hand brings the mechanism to each value first ('misty=200lx' says where)", NULL},
        {"window", 0, 0, G_OPTION_ARG_FILENAME, &o.window,
         "how long each capture takes; 1 s (3 s of a named condition) or 50 readings if not said", "TIME"},
        {"anyway", 0, 0, G_OPTION_ARG_NONE, &o.anyway, "take captures that drift, swing or are noisy, too", NULL},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.output, "draw the fit, .png or .svg", "FILE"},
        {"trial", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.trial, "of an actuator: how much came out in a time",
         "TIME=AMOUNT"},
        {"power", 0, 0, G_OPTION_ARG_FILENAME, &o.power, "of an actuator: drive it with that; its greatest if not said",
         "VALUE"},
        {"dry-run", 0, 0, G_OPTION_ARG_NONE, &o.dry_run, "show what would be written, and write nothing", NULL},
        {"undo", 0, 0, G_OPTION_ARG_NONE, &o.undo, "take the last change of the file back", NULL},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "in simulated time, as fast as the machine can", NULL},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        PORT_ENTRIES,
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 2, &status)) {
        return status;
    }
    calibration c = {.self = self, .options = &o, .path = argv[1], .name = argc > 2 ? argv[2] : NULL};
    c.point = g_array_new(FALSE, FALSE, sizeof(calibrate_point));
    c.said = g_string_new(NULL);
    status = EXIT_USAGE;
    const bool sound = parse_options(&c);
    if (sound && o.undo) {
        status = rewrite_take_back(self, c.path);
    } else if (sound && !c.name) {
        status = command_refuse(self, "name the signal or bands; for example: %s", self->example);
    } else if (sound) {
        c.file = rigfile_load(self, c.path);
    }
    if (!c.file || !rigfile_fits_port(self, c.file, o.fast, o.seed != NULL, false)) {
        /* taken back, or said already */
    } else if (trial_is_meant(c.name, c.file->image)) {
        status = try_actuator(&c);
    } else if (o.trial || o.power) {
        status = command_refuse(self, "--trial and --power are for an actuator; '%s' is none", c.name);
    } else if (find_what(&c)) {
        interrupt_catch();
        status = calibrate(&c);
    }
    end_calibration(&c);
    free_options(&o);
    return status;
}

const command command_calibrate = {"calibrate", "FILE SIGNAL|ACTUATOR",
                                   "measures a signal at known conditions and writes the numbers into the rig file",
                                   "rigpulse calibrate examples/basin.rig depth", run_calibrate};
