"""GLSL 3.30 programs, one string each."""

#: A picture tile: a parallelogram given in clip space, so that no precision is lost on the way.
#: ``u_quad``: in its columns the first corner, the ways across and down, and the texture's box,
#: all at once: a board of hundreds of drawings feels each number that is set apart.
TILE_VERTEX = """
#version 330
uniform mat4 u_quad;
out vec2 v_uv;
void main() {
    vec2 corner = vec2(gl_VertexID & 1, gl_VertexID >> 1);
    v_uv = mix(u_quad[3].xy, u_quad[3].zw, corner);
    gl_Position = u_quad[0] + corner.x * u_quad[1] + corner.y * u_quad[2];
}
"""

#: ``u_over`` 0: the picture itself. Above: only its darkness, that strong, to multiply a mesh by.
#: ``u_tint``: the colour of the lines, and 1 to use it. ``u_medium``: weights of the colours, and
#: what is added, for a light in which lines are dark; ``u_ground``: how light the ground is in it.
#: ``u_cover``: x 1 where the texture's fourth part is how far areas cover it, not how clear it is;
#: y 1 to show no ground.
TILE_FRAGMENT = """
#version 330
uniform sampler2D u_picture;
uniform float u_opacity;
uniform float u_over;
uniform vec4 u_tint;
uniform vec4 u_medium;
uniform float u_ground;
uniform vec2 u_cover;
in vec2 v_uv;
out vec4 f_colour;
void main() {
    vec4 texel = texture(u_picture, v_uv);
    float light = clamp((dot(texel.rgb, u_medium.rgb) + u_medium.a) / u_ground, 0.0, 1.0);
    float pale = light * (1.0 - u_cover.y * (1.0 - u_cover.x));
    texel.rgb = mix(texel.rgb, mix(u_tint.rgb, vec3(1.0), pale), u_tint.a);
    // Paper is never quite white, and its grain is no ink.
    float line = clamp(1.1 * (1.0 - light) - 0.08, 0.0, 1.0);
    float cover = u_cover.x > 0.0 ? texel.a : texel.a * line;
    float whole = u_cover.x > 0.0 ? 1.0 : texel.a;
    float opacity = mix(whole, cover, u_cover.y) * u_opacity;
    f_colour = u_over > 0.0
        ? vec4(mix(vec3(1.0), texel.rgb, opacity * u_over), 1.0)
        : vec4(texel.rgb, opacity);
}
"""

#: The picture as it is, which most are: in software every step of a pixel's sum is felt.
PLAIN_TILE_FRAGMENT = """
#version 330
uniform sampler2D u_picture;
uniform float u_opacity;
in vec2 v_uv;
out vec4 f_colour;
void main() {
    f_colour = texture(u_picture, v_uv) * vec4(1.0, 1.0, 1.0, u_opacity);
}
"""

FLAT_FRAGMENT = """
#version 330
uniform vec4 u_colour;
out vec4 f_colour;
void main() { f_colour = u_colour; }
"""

MESH_VERTEX = """
#version 330
uniform mat4 u_clip;
uniform float u_nearer;
uniform float u_point;
#ifdef SECTION
uniform vec4 u_section;
#endif
in vec3 in_position;
out vec3 v_position;
invariant gl_Position;
#ifdef TINTED
in float in_tint;
out float v_tint;
#endif
void main() {
    v_position = in_position;
#ifdef TINTED
    v_tint = in_tint;
#endif
#ifdef SECTION
    gl_ClipDistance[0] = u_section.w - dot(u_section.xyz, in_position);
#endif
    gl_Position = u_clip * vec4(in_position, 1.0);
    gl_Position.z -= u_nearer * gl_Position.w;
    gl_PointSize = u_point;
}
"""

#: Flat shading from screen-space derivatives: no normals to keep up to date while dragging.
#: ``u_cut``: the colour of insides that a section lays open. With tints, -1 to 1, the colour goes
#: over into ``u_below`` and ``u_above``, in steps that can be told from each other.
MESH_FRAGMENT = """
#version 330
uniform vec4 u_colour;
uniform vec3 u_right;
uniform vec3 u_up;
uniform vec3 u_toward;
uniform float u_relief;
#ifdef SECTION
uniform vec4 u_cut;
#endif
#ifdef TINTED
uniform vec4 u_below;
uniform vec4 u_above;
uniform float u_steps;
in float v_tint;
#endif
in vec3 v_position;
out vec4 f_colour;
void main() {
    vec3 colour = u_colour.rgb;
#ifdef TINTED
    float share = floor(min(abs(v_tint), 0.999) * (u_steps + 0.5) + 0.5) / u_steps;
    colour = mix(colour, v_tint > 0.0 ? u_above.rgb : u_below.rgb, share);
#endif
    vec3 normal = normalize(cross(dFdx(v_position), dFdy(v_position)));
    float facing = abs(dot(normal, u_toward));
    float side = dot(normal, u_up) * sign(dot(normal, u_toward)) * 0.6
               - dot(normal, u_right) * sign(dot(normal, u_toward)) * 0.4;
    float light = 0.66 + 0.26 * facing + 0.16 * side;
    f_colour = vec4(colour * mix(1.0, light, u_relief), u_colour.a);
#ifdef SECTION
    if (!gl_FrontFacing) f_colour.rgb = u_cut.rgb;
#endif
}
"""

POINT_FRAGMENT = """
#version 330
uniform vec4 u_colour;
uniform vec4 u_rim;
out vec4 f_colour;
void main() {
    vec2 away = abs(gl_PointCoord - 0.5);
    f_colour = max(away.x, away.y) > 0.34 ? u_rim : u_colour;
}
"""

#: Pen strokes in pane pixels: quads with a soft edge, and dashes along them.
INK_VERTEX = """
#version 330
uniform vec2 u_size;
in vec2 in_at;
in vec4 in_colour;
in vec4 in_pen;
out vec4 v_colour;
out vec4 v_pen;
void main() {
    v_colour = in_colour;
    v_pen = in_pen;
    gl_Position = vec4(in_at.x / u_size.x * 2.0 - 1.0, 1.0 - in_at.y / u_size.y * 2.0, 0.0, 1.0);
}
"""

#: pen: distance across, half width, distance along, dash length (0: none).
INK_FRAGMENT = """
#version 330
in vec4 v_colour;
in vec4 v_pen;
out vec4 f_colour;
void main() {
    float cover = clamp(v_pen.y + 0.5 - abs(v_pen.x), 0.0, 1.0);
    if (v_pen.w > 0.0) cover *= step(fract(v_pen.z / (2.0 * v_pen.w)), 0.5);
    f_colour = vec4(v_colour.rgb, v_colour.a * cover);
}
"""

TEXT_VERTEX = """
#version 330
uniform vec2 u_size;
in vec2 in_at;
in vec2 in_uv;
in vec4 in_colour;
out vec2 v_uv;
out vec4 v_colour;
void main() {
    v_uv = in_uv;
    v_colour = in_colour;
    gl_Position = vec4(in_at.x / u_size.x * 2.0 - 1.0, 1.0 - in_at.y / u_size.y * 2.0, 0.0, 1.0);
}
"""

TEXT_FRAGMENT = """
#version 330
uniform sampler2D u_glyphs;
in vec2 v_uv;
in vec4 v_colour;
out vec4 f_colour;
void main() { f_colour = vec4(v_colour.rgb, v_colour.a * texture(u_glyphs, v_uv).r); }
"""


def with_tints(source: str) -> str:
    """The shader of a mesh whose vertices have tints."""
    return source.replace("#version 330", "#version 330\n#define TINTED", 1)


def with_section(source: str) -> str:
    """The shader of a mesh that is cut off at a plane."""
    return source.replace("#version 330", "#version 330\n#define SECTION", 1)
