/* A trial as text. */
#include "trial.h"

#include "loop_pieces.h"

#include <string.h>

rgp_trial_names rgp_trial_names_of(const rgp_image_header *image, uint32_t loop)
{
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    rgp_trial_names names = {
        rgp_image_unit(image, RGP_NAME_SLOT, l->first + RGP_TERM_ERROR, 0), {"kp", "ki", "kd"}, {1.0f, 1.0f, 1.0f}};
    for (uint32_t i = 0; i < 3; i++) {
        names.scale[i] = rgp_loop_gain_scale(image, loop, i);
        if (l->gain[i] != RGP_REF_NONE && !(l->brought >> i & 1u)) { /* a parameter that others may use, too */
            names.gain[i] = rgp_image_text(image, RGP_NAME_SLOT, l->gain[i], 0);
        }
    }
    return names;
}

void rgp_trial_put(GString *to, const char *name, double value, const char *unit)
{
    g_string_append_printf(to, "%s%s %.3g%s", to->len ? ", " : "", name, value, unit);
}

void rgp_trial_put_gain(GString *to, const rgp_trial_names *names, uint32_t gain, double value)
{
    rgp_trial_put(to, names->gain[gain], value / (double)names->scale[gain], "");
}

void rgp_trial_put_deadband(GString *to, const rgp_trial_names *names, double value)
{
    g_autofree char *unit = g_strdup_printf("%s%s", *names->unit ? " " : "", names->unit);
    rgp_trial_put(to, "deadband", value, unit);
}

rgp_pid_gains rgp_trial_written(const rgp_trial_names *names, const rgp_pid_gains *gains)
{
    return (rgp_pid_gains){gains->kp / names->scale[0], gains->ki / names->scale[1], gains->kd / names->scale[2],
                           gains->filter};
}

void rgp_trial_put_all(GString *to, const rgp_trial_names *names, const rgp_pid_gains *gains, double times)
{
    const float value[3] = {gains->kp, gains->ki, gains->kd};
    for (uint32_t i = 0; i < 3; i++) {
        if (value[i] > 0.0f) {
            rgp_trial_put_gain(to, names, i, times * (double)value[i]);
        }
    }
}

void rgp_trial_put_changed(GString *to, const rgp_trial_names *names, const rgp_pid_gains *was,
                           const rgp_pid_gains *gains)
{
    const float before[3] = {was->kp, was->ki, was->kd}, value[3] = {gains->kp, gains->ki, gains->kd};
    for (uint32_t i = 0; i < 3; i++) {
        if (value[i] != before[i]) {
            rgp_trial_put_gain(to, names, i, (double)value[i]);
        }
    }
    if (gains->filter != was->filter) {
        rgp_trial_put(to, "filter", (double)gains->filter, " s");
    }
}

bool rgp_trial_take(const char *trial, const rgp_trial_names *names, rgp_pid_config *pid)
{
    const struct {
        const char *name;
        float *of, scale;
    } known[] = {{names->gain[0], &pid->gain.kp, names->scale[0]},
                 {names->gain[1], &pid->gain.ki, names->scale[1]},
                 {names->gain[2], &pid->gain.kd, names->scale[2]},
                 {"filter", &pid->gain.filter, 1.0f},
                 {"deadband", &pid->deadband, 1.0f}};
    bool all = true;
    g_auto(GStrv) parts = g_strsplit(trial, ", ", -1);
    for (char **part = parts; *part; part++) {
        const char *blank = strchr(*part, ' ');
        bool found = false;
        for (size_t i = 0; blank && i < G_N_ELEMENTS(known); i++) {
            if (strncmp(*part, known[i].name, (size_t)(blank - *part)) == 0 && known[i].name[blank - *part] == '\0') {
                *known[i].of = (float)g_ascii_strtod(blank, NULL) * known[i].scale;
                found = true;
            }
        }
        all &= found;
    }
    return all;
}

bool rgp_trial_take_gains(const char *trial, const rgp_trial_names *names, rgp_pid_gains *gains)
{
    rgp_pid_config pid = {.gain = *gains, .deadband = -1.0f};
    const bool known = rgp_trial_take(trial, names, &pid);
    *gains = pid.gain;
    return known && pid.deadband == -1.0f;
}
