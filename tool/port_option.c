/* The options that say which port a rig runs on. */
#include "port_option.h"

#include "runtime/ports.h"

port_option port_options;

bool port_option_take(GError **error)
{
    if (port_options.guard) {
        rgp_ports_guard();
    }
    if (rgp_ports_choose(port_options.port)) {
        return true;
    }
    g_autoptr(GString) all = g_string_new(NULL);
    for (const rgp_catalog *c = rgp_ports_catalog(); c; c = c->next) {
        g_string_append_printf(all, "%s%s", all->len ? ", " : "", c->port);
    }
    g_set_error(error, G_OPTION_ERROR, G_OPTION_ERROR_BAD_VALUE, "--port %s: there is no such port; there are: %s",
                port_options.port, all->str);
    return false;
}
